@php use Fulcrion\Core\Text\Quantity; @endphp
<p @class(['quiet' => $plans === []])>{{ $planKnown }}</p>
@if($plans !== [])
<x-table name="Plans" export="Plans of the statement">
    <thead><tr><th scope="col">Plan</th><th scope="col">First seen</th><th scope="col">Last seen</th>
    <th scope="col" class="n">Executions</th><th scope="col" class="n">Mean latency</th></tr></thead>
    <tbody>@foreach($plans as $each)<tr><td><a class="mono" href="{{ address('plan.show', $each->id) }}">{{ substr($each->shape, 0,
        8) }}</a> {{
        $each->plan->actual ? 'with actual figures' : 'expected only' }}</td><td class="nowrap">{{ moment($each->firstUs) }}</td>
        <td class="nowrap">{{ moment($each->lastUs) }}</td><td class="n">{{ $each->executions ? Quantity::count($each->executions)
        : 'not run' }}</td><td class="n">{{ $each->meanUs() === null ? Quantity::NONE : Quantity::duration($each->meanUs()) }}</td>
        </tr>@endforeach</tbody></x-table>
@if(count($plans) > 1)<p><a href="{{ address('plan.compare') }}?first={{ $plans[1]->id }}&amp;second={{
    $plans[0]->id }}">Put the last two side by side</a></p>@endif
@php $findings = (new Fulcrion\Core\Plans\PlanRules)->check($plans[0]->plan); @endphp
<ul class="annotated">@forelse($findings as $finding)<li><x-state is="act" /><p>{{ $finding->problem }}. <a href="{{ address('plan.show',
    $plans[0]->id) }}#finding-{{ $loop->iteration }}">Evidence and remedy</a></p>
    </li>@empty<li><x-state is="calm" /><p>No rule finds fault with its latest plan.</p></li>@endforelse</ul>
@endif
@can('run')
@if($scope->cluster->connector !== 'files')
<form class="tools" method="post" action="{{ address('plan.of-statement', $statement->fingerprint) }}">@csrf<input type="hidden"
    name="cluster"
    value="{{ $scope->cluster->slug }}">
    <button class="btn btn-line" name="mode" value="explain">Explain the latest sample</button> <button class="btn btn-line" name="mode"
        value="actual">Run it and explain</button>
</form>
@endif
@endcan
