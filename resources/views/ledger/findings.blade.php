@php use Fulcrion\Core\Text\Quantity; @endphp
<x-layout title="Findings" bench="ledger" sub="findings">
<div class="reading">
    <h1>{{ $open === 0 ? 'No finding is open' : $open.' '.Str::plural('finding', $open).' '.($open === 1 ? 'is'
        : 'are').' open, for '.Quantity::duration($weightUs).' of query time a week' }}</h1>
    <x-filters :to="address('finding.index')">
        <x-search id="words" label="Object or problem" :value="request('words')" />
        <div><label for="state">State</label><select class="form-select" id="state" name="state" data-submits>
        <option value="">open or accepted</option>@foreach(App\Ledger\Findings\FindingState::cases() as $state)<option
        @selected(request('state') === $state->value)>{{ $state->value }}</option>@endforeach<option value="any"
        @selected(request('state') === 'any')>any</option></select></div>
        <div><label for="rule">Rule</label><select class="form-select" id="rule" name="rule" data-submits>
        <option value="">all</option>@foreach($rules as $rule)<option @selected(request('rule') === $rule)>{{
        $rule }}</option>@endforeach</select></div>
        <div><label for="cluster">Cluster</label><select class="form-select" id="cluster" name="cluster" data-submits>
        <option value="">all</option>@foreach($clusters as $each)<option value="{{
        $each->slug }}" @selected(request('cluster') === $each->slug)>{{ $each->name }}</option>@endforeach</select></div>
    </x-filters>
    <div class="tools"><x-exports route="finding.export" :query="request()->query()" /></div>
    @if($findings->isEmpty())<x-empty>No finding matches. <a href="{{ address('finding.index') }}?state=any">Show all</a>.</x-empty>@else
    <x-table name="Findings" :export="false" :columns="true" :sorts="false"><thead><tr><th scope="col">State</th>
    <th scope="col">Problem</th><th scope="col">Object</th><th scope="col">Rule</th><th scope="col" class="n">Weight a week</th>
    <th scope="col" class="n">About, a month</th>
    <th scope="col" class="n">Bytes to spare</th></tr></thead>
    <tbody>@foreach($findings as $finding)<tr data-row><td><x-state :is="$finding->mark() === 'none' ? 'no data' : $finding->mark()">{{
        $finding->state->value }}</x-state></td><td class="problem"><a href="{{ address('finding.show', $finding->id) }}">{{
        $finding->problem }}</a>@isset($causes[$finding->id])<br><span class="quiet small">comes of <a href="{{
            address('finding.show', $causes[$finding->id]->findingId) }}">{{ $causes[$finding->id]->problem
            }}</a></span>@endisset</td><td class="mono">{{ $finding->subject()->shown() }}<br><span class="quiet small">{{
        $finding->cluster->name }}</span></td><td>{{ str_replace('-', ' ', $finding->rule) }}</td>
        <td class="n">{{ $finding->weight()->shown() ?: Quantity::NONE }}</td>
        <td class="n nowrap">{{ Str::before($finding->worth(), ' a month') ?: Quantity::NONE }}</td>
        <td class="n">{{ $finding->spare_bytes > 0 ? Quantity::bytes($finding->spare_bytes) : Quantity::NONE }}</td>
        </tr>@endforeach</tbody></x-table>
    <nav class="pages" aria-label="Pages">@if($findings->previousPageUrl())<a rel="prev" href="{{
        $findings->previousPageUrl() }}">Before</a>@endif @if($findings->nextPageUrl())<a rel="next" href="{{
        $findings->nextPageUrl() }}">More</a>@endif</nav>@endif
</div>
</x-layout>
