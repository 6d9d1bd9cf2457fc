@php
    use App\Statements\Charts\PlanFigure;
    use App\Statements\Application\PlanWords;
    use Fulcrion\Core\Text\Quantity;
    $steps = PlanWords::numbered($plan->root);
    $sum = array_sum(array_map(fn ($s) => $s[2]->cost->ownUs ?? 0, $steps));
    $scale = fn (?int $bytes): string => $bytes === null ? Quantity::NONE : Quantity::bytes($bytes * $plan->rowFactor);
    $clock = $plan->modelled ? 'modelled' : 'measured';
@endphp
<x-layout title="Plan" bench="tune" sub="plans">
<div class="reading plan-page">
    <p class="trail"><a data-back href="{{ address('plan.index') }}?cluster={{ $cluster->slug }}">Plans</a> / {{
        $cluster->name }} / <a href="{{ address('statement.show', $stored->statement) }}?cluster={{
        $cluster->slug }}">statement <span class="mono">{{ substr($stored->statement, 0, 8) }}</span></a></p>
    <h1>{{ PlanWords::sentence($plan, $findings) }}</h1>
    <p class="quiet">First seen {{ moment($stored->firstUs) }}, last seen {{ moment($stored->lastUs) }}{{
        $stored->meanUs() === null ? '' : '; '.Quantity::count($stored->executions).($stored->executions === 1 ? ' execution, '
        : ' executions, ').Quantity::duration($stored->meanUs()).' on average' }}. {{
        $plan->actual ? "Rows and bytes are counted; times are {$clock}." : 'It was not run: all figures are expectations.'
        }}@if($masked) Literals are hidden.@endif</p>
    @if($masked)@can('reveal')<form class="tools" method="post" action="{{ address('plan.reveal', $stored->id) }}">@csrf<button
        class="btn btn-line">Reveal literals</button> <span class="quiet small">This is written to the ledger.</span></form>@endcan @endif
    <div class="tools">
        <a href="{{ address('plan.svg', $stored->id) }}">SVG</a><a href="{{ address('plan.json', $stored->id) }}">JSON</a>
        @can('run')<a href="{{ address('workbench.show') }}?cluster={{ $cluster->connector === 'files' ? ''
            : $cluster->slug }}&amp;statement={{
            $stored->statement }}&amp;of={{ $cluster->slug }}">Rehearse in the workbench</a>@endcan
        @foreach($others as $other)<a href="{{ address('plan.compare') }}?first={{ $other->firstUs <= $stored->firstUs ? $other->id
            : $stored->id }}&amp;second={{ $other->firstUs <= $stored->firstUs ? $stored->id
            : $other->id }}">Beside the plan first seen {{ moment($other->firstUs) }}</a>@endforeach
    </div>
    @if($others !== [])<div class="notice"><strong>The plan of this statement changed.</strong> @foreach(collect([...$others,
        $stored])->sortBy('firstUs') as $each){{ $loop->first ? 'The first' : 'Then another' }} was seen from {{
        moment($each->firstUs) }}@if($each->meanUs() !== null), {{ Quantity::duration($each->meanUs()) }} on average over {{
        Quantity::count($each->executions) }} executions{{ '' }}@endif{{ $each->id === $stored->id ? ' (this one)'
        : '' }}. @endforeach</div>@endif
    <figure>
        <div class="scroll" tabindex="0" role="group" aria-label="Way of the rows, figure">{!! $figure->svg() !!}</div>
        <figcaption>Rows go from the tables at the left to the result at the right. A path is as wide as its rows are many, on a log
            scale; dashed lines show how wide it was expected to be, red where that was wrong by more than ten times. A step is as dark
            as its share of the time{{ $plan->actual ? " ({$clock})" : ', which is not known here' }}.</figcaption>
        <details class="twin"><summary>The plan as text</summary><pre class="plan-text" tabindex="0">{{
            PlanWords::text($plan) }}</pre></details>
    </figure>
    @if($plan->remarks !== [])<h2>What was prepared</h2><ul>@foreach($plan->remarks as $remark)<li>{{
        ucfirst($remark) }}.</li>@endforeach</ul>@endif
    <h2>Findings</h2>
    @if($findings === [])<p>No rule finds fault with this plan{{
        $plan->actual ? '' : '; most rules need actual figures, which come with a run' }}.</p>
    @else<ol class="findings">@foreach($findings as $finding)
        <li id="finding-{{ $loop->iteration }}"><h3>{{ $finding->problem }}</h3>
        <p>{{ $finding->evidence }}.@if($finding->atStakeUs) <span class="nowrap">At stake: {{
        Quantity::duration($finding->atStakeUs) }} ({{ $clock }}).</span>@endif @foreach($steps as [$n, ,
        $s])@if($s === $finding->step)<a href="#step-{{ $n }}">Step {{ $n }}</a>@endif @endforeach</p><p><strong>What to do:</strong> {{
        $finding->remedy }}</p>@if($finding->replacement)<pre class="sql" tabindex="0">{{
        App\Platform\Support\Sql::pretty($finding->replacement) }}</pre>@endif</li>
    @endforeach</ol>@endif
    <h2>Steps</h2>
    <x-table name="Steps" :sorts="false" class="steps">
        <thead><tr><th scope="col">Step</th><th scope="col" class="n">Own time</th><th scope="col" class="n">With inputs</th>
        <th scope="col" class="n">Rows</th><th scope="col" class="n">Expected</th><th scope="col">Estimate was</th>
        <th scope="col" class="n">Loops</th><th scope="col" class="n">Read</th><th scope="col" class="n">Chunks skipped</th>
        <th scope="col" class="n">Spread</th><th scope="col" class="n">Spilled</th></tr></thead>
        <tbody>@foreach($steps as [$n, $depth, $s])
        <tr id="step-{{ $n }}">
            <td class="step d{{ min(12, $depth) }}"><details><summary><span class="chip t{{ PlanFigure::heat($s->cost->ownUs,
                $sum) }}" aria-hidden="true"></span>{{ $n }}. {{ $s->title() }}</summary>
                @if($s->detail !== '' && $s->detail !== $s->table?->name)<p class="mono">{{ $s->detail }}</p>@endif
                @foreach($s->conditions as $condition)@if($condition !== $s->detail)<p class="mono">where {{
                    $condition }}</p>@endif @endforeach
                @foreach($s->notes as $note)<p class="quiet">{{ $note }}</p>@endforeach
                @if($s->table?->distribution)<p class="quiet">Placed {{ $s->table->distribution }}{{
                    $s->table->partitionColumn ? ", cut by {$s->table->partitionColumn}" : '' }}{{
                    $s->table->clustering ? ', sorted by '.implode(', ', $s->table->clustering) : '' }}.</p>@endif
                @if($s->reads->partitionsTotal)<p class="quiet">{{ $s->reads->partitions }} of {{
                    $s->reads->partitionsTotal }} partitions needed reading.</p>@endif
                @if($s->cost->memoryPeak)<p class="quiet">At most {{ $scale($s->cost->memoryPeak) }} held on a node (modelled).</p>@endif
                @if($s->cost->bytesSent)<p class="quiet">{{ $scale($s->cost->bytesSent) }} sent between nodes (modelled).</p>@endif
                @if($s->nodes !== [])
                    @php $most = max(1, ...array_map(fn ($node) => max($node->rowsIn, $node->rowsOut), $s->nodes)); @endphp
                    <x-table name="Rows of each node" class="nodes" :export="false" :sorts="false">
                    <caption class="quiet small">Rows of each node</caption><tbody>@foreach($s->nodes as $i
                        => $node)<tr><th scope="row">node {{ $i + 1 }}</th><td>
                        <svg class="node-bar" viewBox="0 0 200 10" preserveAspectRatio="none" aria-hidden="true"><rect class="s1" x="0"
                        y="1" height="8" width="{{ round(200 * max($node->rowsIn, $node->rowsOut) / $most, 1) }}"/></svg></td>
                        <td class="n">{{ Quantity::count(max($node->rowsIn, $node->rowsOut)) }}</td>
                        <td class="n">{{ Quantity::duration($node->ownUs) }}</td></tr>@endforeach</tbody></x-table>
                @endif
            </details></td>
            <td class="n">{{ $s->cost->ownUs === null ? Quantity::NONE : Quantity::duration($s->cost->ownUs) }}</td>
            <td class="n">{{ $s->cumulativeUs() === null ? Quantity::NONE : Quantity::duration($s->cumulativeUs()) }}</td>
            <td class="n">{{ $s->rows->actual === null ? Quantity::NONE : Quantity::count((int) $s->rows->actual) }}</td>
            <td class="n">{{ $s->rows->estimated === null ? Quantity::NONE : Quantity::count((int) $s->rows->estimated) }}</td>
            <td @class(['off' => ($s->errorFactor() ?? 1) > 10])>{{ PlanWords::error($s) }}</td>
            <td class="n">{{ Quantity::count($s->rows->loops) }}</td><td class="n">{{ $scale($s->reads->bytes) }}</td>
            <td class="n">{{ $s->reads->chunksTotal === null ? Quantity::NONE
                : ($s->reads->chunksTotal - $s->reads->chunks).' of '.$s->reads->chunksTotal
            }}</td><td class="n">{{ $s->spread() === null || $s->kind->isExchange() ? Quantity::NONE : Quantity::digits($s->spread()).'×'
            }}</td><td class="n">{{ $s->cost->bytesSpilled ? $scale($s->cost->bytesSpilled) : Quantity::NONE }}</td>
        </tr>@endforeach</tbody></x-table>
    @if($plan->rowFactor > 1)<p class="quiet small">Rows are those stored. Bytes are of the modelled cluster, where each stored row
        stands for {{ Quantity::count($plan->rowFactor) }}.</p>@endif
    @if($plan->statement !== '')<h2>Statement</h2><pre class="sql" tabindex="0">{{ App\Platform\Support\Sql::pretty($plan->statement,
        $cluster->dialect) }}</pre>@endif
</div>
</x-layout>
