@php
    use App\Health\Charts\NodesFigure; use App\Platform\Support\MomentStyle; use Fulcrion\Core\Text\Quantity;
    $line = $page['line'];
@endphp
@if($page['figure'] !== null)
    @if($links)<x-figure :figure="$page['figure']" name="In flight" />
    @else<figure>{!! $page['figure']->svg !!}<figcaption>{{ $page['figure']->summary }} {{
        $page['figure']->how }}</figcaption></figure>@endif
@else<p class="quiet">No execution that is kept one by one was in flight in that minute.</p>@endif
<h2>The cluster</h2>
<p><x-state :is="$line->mark()">{{ $line->word() }}</x-state></p>
@if($line->nodes !== [])<div class="scroll" tabindex="0" role="group" aria-label="Nodes, figure">{!!
    NodesFigure::draw($line) !!}</div>@endif
<x-table name="The cluster then" class="facts" :sorts="false" :export="false"><tbody>
    <tr><th scope="row">executions at work, mean of a quarter of an hour</th><td>{{ $line->inFlight === null ? Quantity::NONE
        : Quantity::digits($line->inFlight) }}</td></tr>
    <tr><th scope="row">waiting in queues</th><td>{{ $line->inFlight === null ? Quantity::NONE
        : Quantity::digits($line->waiting) }}</td></tr>
    @foreach($page['answer']->evidence as [$label, $value])<tr><th scope="row">{{ $label }}</th><td>{{ $value }}</td></tr>@endforeach
    @foreach($page['answer']->users as $name => $load)<tr><th scope="row">at work for {{ $name === '' ? 'accounts not known' : $name }}</th>
        <td>{{ Quantity::digits($load) }}</td></tr>@endforeach
</tbody></x-table>
@if($page['executions'] !== [])<h2>In flight then</h2>
@include('health.in-flight', ['executions' => $page['executions']])@endif
@if($page['answer']->slower !== [])<h2>What took longer than usual</h2>
<x-table name="Slower statements" :export="$links"><thead><tr><th scope="col">Statement</th><th scope="col" class="n">Runs</th>
    <th scope="col" class="n">Took</th><th scope="col" class="n">Usual</th><th scope="col" class="n">Waited</th></tr></thead><tbody>
    @foreach($page['answer']->slower as [$print, $sql, $now, $usual])<tr data-row><td class="statement">{{
        App\Platform\Support\Sql::line($sql, 160) }}</td><td class="n">{{ $now->executions }}</td>
    <td class="n">{{ Quantity::duration($now->tookUs) }}</td><td class="n">{{ Quantity::duration($usual->tookUs) }}</td>
    <td class="n">{{ Quantity::duration($now->waitedUs) }}</td></tr>@endforeach</tbody></x-table>@endif
@if($line->nodes !== [])<h2>Its nodes</h2>
<x-table name="Nodes then" :export="$links"><thead><tr><th scope="col">Node</th><th scope="col" class="n">Processors at work</th>
    <th scope="col" class="n">Disk at work</th><th scope="col">Beside its neighbours</th></tr></thead><tbody>
    @foreach($line->nodes as $node)<tr data-row><td>@if($links)<a href="{{ address('host.show') }}?{{ http_build_query(['cluster' =>
        $cluster->slug, 'host' => $node->name, 'window' => moment(($at - 3_600) * 1_000_000, MomentStyle::Written, $zone).' to '.moment(
        ($at + 3_600) * 1_000_000, MomentStyle::Written, $zone)]) }}">{{ $node->name }}</a>@else{{ $node->name }}@endif</td>
    <td class="n">{{ $node->processor === null ? Quantity::NONE : Quantity::percent($node->processor) }}</td>
    <td class="n">{{ $node->disk === null ? Quantity::NONE : Quantity::percent($node->disk) }}</td>
    <td>{{ $node->isOdd ? 'slower' : 'like them' }}</td></tr>@endforeach</tbody></x-table>@endif
<h2>What happened within twelve hours</h2>
@if($page['marks'] === [] && $page['findings'] === [])<p class="quiet">No change was applied, no server was
    started, and nothing was found.</p>
@else<x-table name="What happened" :sorts="false" :export="$links"><tbody>
    @foreach($page['marks'] as $second => $name)<tr><th scope="row" class="nowrap">{{ moment($second * 1_000_000, MomentStyle::Second,
        $zone) }}</th><td>{{ $name }}</td></tr>@endforeach
    @foreach($page['findings'] as $finding)<tr><th scope="row" class="nowrap">{{ moment($finding->first_us, MomentStyle::Second,
        $zone) }}</th><td>found: @if($links)<a href="{{ address('finding.show', $finding->id) }}">{{ $finding->problem }}</a>@else{{
        $finding->problem }}@endif</td></tr>@endforeach</tbody></x-table>@endif
