@php
    use Fulcrion\Core\Text\Quantity;
    $set = $page === null || $page->sets === [] ? null : $page->sets[$page->shown];
@endphp
<x-layout title="Prepared answers" bench="tune" sub="rollups">
<div class="reading">
    <h1>{{ $page?->sentence() ?? 'Rollups and lookups are kept by practice clusters' }}</h1>
    @if($trouble)<div class="notice bad" role="alert">{{ $trouble }}</div>@endif
    @if($page === null && ! $trouble)<x-empty>There is no practice cluster yet. <a
        href="{{ address('cluster.index') }}">Clusters</a> shows what there is.</x-empty>@endif
    @if($page !== null)
    <x-filters :to="address('rollup.index')">
        <div><label for="prepared-cluster">Cluster</label><select class="form-select" id="prepared-cluster" name="cluster"
            data-submits>@foreach($clusters as $each)<option value="{{ $each->slug }}" @selected($each->id === $cluster->id)>{{
            $each->name }}</option>@endforeach</select></div>
        @if($page->table !== null)<div><label for="prepared-table">Groups of the table</label><select class="form-select mono"
            id="prepared-table" name="table" data-submits>@foreach($page->tables as $name => $us)<option value="{{
            $name }}" @selected($name === $page->table->name)>{{ $name }}: {{
            Quantity::duration($us) }} a week</option>@endforeach @unless(isset($page->tables[$page->table->name]))<option selected>{{
            $page->table->name }}</option>@endunless</select></div>
        <div><label for="rollup-maintenance">Maintenance at most, minutes a week</label><input class="form-control" id="rollup-maintenance"
            name="maintenance" inputmode="decimal" value="{{ $maintenance }}" placeholder="any"></div>@endif
    </x-filters>

    @if($set !== null && count($page->sets) > 1)
    <section data-budget data-shown="{{ $page->shown }}">
    <h2>Rollups worth having</h2>
    @if($page->figure() !== null)<x-figure :figure="$page->figure()" name="Space" />@endif
    <div class="filters"><div class="wide"><label for="space">Space: <output data-budget-said>{{
        Quantity::bytes($set->bytes() * $page->table->rowFactor) }}</output></label><input class="form-range" type="range" id="space"
        min="0" max="{{ count($page->sets) - 1 }}" value="{{ $page->shown }}" step="1"></div></div>
    @foreach($page->sets as $number => $each)
    <div data-budget-set="{{ $number }}" data-said="{{ Quantity::bytes($each->bytes() * $page->table->rowFactor) }}" data-space="{{
        $each->bytes() * $page->table->rowFactor / 1048576 }}" @if($number !== $page->shown) hidden @endif>
        @if($each->proposals === [])<p>Without space nothing is kept: the {{ count($page->advice->uses) }} groupings of {{
            $page->table->name }} take {{ Quantity::duration($page->advice->nowUs()) }} a week (modelled).</p>
        @else
        <p>{{ count($each->proposals) }} {{ Str::plural('rollup', count($each->proposals)) }} would answer {{
            Quantity::count($each->executions()) }} executions a week, save <strong>{{
            Quantity::duration($each->savedUs()) }}</strong> of {{ Quantity::duration($page->advice->nowUs()) }} and take {{
            Quantity::duration($each->keepUs()) }} a week to keep (modelled).</p>
        <form method="post" action="{{ address('rollup.rollups', [$cluster->slug, $page->table->name]) }}">@csrf<input type="hidden"
            name="space" value="{{ $each->budget }}">
        <x-table :name="'Rollups for '.Quantity::bytes($each->bytes() * $page->table->rowFactor)" :export="false"><thead>
            <tr>@can('run')<th scope="col"><span class="visually-hidden">Take</span></th>@endcan<th scope="col">Grouped by</th>
            <th scope="col" class="n">Answers</th><th scope="col" class="n">Executions a week</th>
            <th scope="col" class="n">Rows, about</th><th scope="col" class="n">Space</th><th scope="col" class="n">Less to read</th>
            <th scope="col" class="n">Saves a week</th><th scope="col" class="n">To keep a week</th></tr></thead>
        <tbody>@foreach($each->proposals as $p)<tr data-row>@can('run')<td><input class="form-check-input" type="checkbox"
            name="rollups[]" value="{{ $p->name }}" checked aria-label="Take {{ $p->name }}"></td>@endcan
            <td><details class="twin"><summary>{{ implode(', ', array_map(fn ($d) => $d->describe(),
                $p->candidate->dimensions)) }}</summary><pre class="sql">{{
                $p->create() }}</pre><p class="small">Answers @foreach(array_slice(array_values($p->served), 0,
                12) as $use)<a class="mono" href="{{ address('statement.show', $use->statement) }}?cluster={{
                $cluster->slug }}&amp;window=last+28+days">{{ substr($use->statement, 0, 8) }}</a>{{
                $loop->last ? '' : ', ' }}@endforeach{{ count($p->served) > 12 ? ' and '.(count($p->served) - 12).' more' : '' }}.</p>
                </details></td>
            <td class="n">{{ count($p->served) }}</td><td class="n">{{ Quantity::count($p->executions()) }}</td>
            <td class="n">{{ Quantity::count($p->candidate->rows * $page->table->rowFactor) }}</td>
            <td class="n">{{ Quantity::bytes($p->candidate->bytes * $page->table->rowFactor) }}</td>
            <td class="n">{{ Quantity::digits($p->factor()) }}×</td><td class="n">{{ Quantity::duration($p->savedUs) }}</td>
            <td class="n">{{ Quantity::duration($p->candidate->keepUs) }}</td></tr>@endforeach</tbody></x-table>
        @can('run')<button class="btn btn-primary">Propose these rollups</button>@endcan</form>
        @endif
    </div>
    @endforeach
    </section>
    @elseif($page->table !== null)<x-empty>No further rollup of {{ $page->table->name }} would save more than it costs: its {{
        count($page->advice->uses) }} groupings take {{ Quantity::duration($page->advice->nowUs()) }} a week.</x-empty>@endif
    @if($page->advice !== null && $page->advice->not !== [])<details class="more"><summary>{{ array_sum(array_map('count',
        $page->advice->not)) }} groupings no rollup can answer, and why</summary><ul>@foreach($page->advice->not as $why => $list)<li>{{
        ucfirst($why) }}: {{ count($list) }}, such as <a class="mono" href="{{ address('statement.show', $list[0]) }}?cluster={{
        $cluster->slug }}&amp;window=last+28+days">{{ substr($list[0], 0, 8) }}</a></li>@endforeach</ul></details>@endif

    <h2>Rollups kept</h2>
    @if($page->rollups === [])<x-empty>None yet.</x-empty>@else
    <x-table name="Rollups kept" export="Rollups"><thead><tr>
    <th scope="col">Rollup</th><th scope="col">State</th><th scope="col" class="n">Rows</th><th scope="col" class="n">Space</th>
    <th scope="col" class="n">Used, 14 days</th><th scope="col" class="n">Saved</th><th scope="col" class="n">Keeping it took</th>
    <th scope="col">Refreshed</th>@can('run')<th scope="col"><span class="visually-hidden">Acts</span></th>@endcan</tr></thead>
    <tbody>@foreach($page->rollups as $rollup)@php $sum = $rollup->since($page->since()); $idle = $page->idle($rollup); @endphp<tr data-row>
        <td><details class="twin"><summary class="mono">{{ $rollup->name }}</summary><pre class="sql">{{
            $rollup->create() }}</pre></details></td>
        <td><x-state :is="$rollup->broken !== '' ? 'act' : ($idle !== '' || $rollup->missingChunks > 0 ? 'watch' : 'calm')">{{
            $rollup->broken !== '' ? $rollup->broken : ($idle !== '' ? $idle : ($rollup->missingChunks > 0
            ? Quantity::count($rollup->missingRows).' rows behind; '.($rollup->stale === 'fold' ? 'they are read beside it'
            : 'it is not used until refreshed') : 'up to its table')) }}</x-state></td>
        <td class="n">{{ Quantity::count($rollup->rows) }}</td><td class="n">{{ Quantity::bytes($rollup->bytes) }}</td>
        <td class="n">{{ Quantity::count($sum['uses']) }}</td><td class="n">{{ Quantity::duration($sum['savedUs']) }}</td>
        <td class="n">{{ Quantity::duration($sum['keptUs']) }}</td><td class="nowrap">{{ moment($rollup->refreshedUs) }}</td>
        @can('run')<td class="acts"><form method="post" action="{{ address('rollup.refresh', $cluster->slug) }}">@csrf<input type="hidden"
            name="name" value="{{ $rollup->name }}"><button class="plain">Refresh</button></form>
            <form method="post" action="{{ address('rollup.drop', $cluster->slug) }}">@csrf<input type="hidden" name="name" value="{{
            $rollup->name }}"><button class="plain">Propose to drop</button></form></td>@endcan</tr>@endforeach</tbody></x-table>
    <p class="quiet small">Uses are counted by the planner of {{
        $cluster->name }} as it answers; what each saved and what keeping took is modelled from the rows and bytes that were read
        instead. A rollup that is behind is refreshed every five minutes.</p>@endif

    <h2>Lookups</h2>
    <p>Lookups take {{ Quantity::bytes($page->lookupBytes()) }} of the {{
        Quantity::bytes($page->lookupBudget) }} of memory every node of {{ $cluster->name }} may give them.</p>
    <meter class="memory" min="0" max="{{ $page->lookupBudget }}" value="{{
        $page->lookupBytes() }}" aria-label="Memory lookups take"></meter>
    @if($page->lookups !== [])
    <x-table name="Lookups kept" export="Lookups"><thead><tr>
    <th scope="col">Lookup</th><th scope="col">Of</th><th scope="col">Key and columns</th><th scope="col" class="n">Keys</th>
    <th scope="col" class="n">Memory a node</th><th scope="col" class="n">Used, 14 days</th><th scope="col" class="n">Saved</th>
    <th scope="col">State</th>@can('run')<th scope="col"><span class="visually-hidden">Acts</span></th>@endcan</tr></thead>
    <tbody>@foreach($page->lookups as $lookup)@php $sum = $lookup->since($page->since()); @endphp<tr data-row><td class="mono">{{
        $lookup->name }}</td><td class="mono">{{ $lookup->table }}</td><td class="mono">{{ $lookup->key }}; {{
        implode(', ', array_diff($lookup->columns, [$lookup->key])) }}</td><td class="n">{{ Quantity::count($lookup->rows) }}</td>
        <td class="n">{{ Quantity::bytes($lookup->bytes) }}</td><td class="n">{{ Quantity::count($sum['uses']) }}</td>
        <td class="n">{{ Quantity::duration($sum['savedUs']) }}</td><td><x-state :is="$lookup->behind ? 'watch' : 'calm'">{{
        $lookup->behind ? 'its table changed; rebuilt when next asked for' : 'as its table' }}</x-state></td>
        @can('run')<td class="acts"><form method="post" action="{{ address('rollup.drop', $cluster->slug) }}">@csrf<input type="hidden"
            name="name" value="{{ $lookup->name }}"><button class="plain">Propose to drop</button></form>
            </td>@endcan</tr>@endforeach</tbody></x-table>@endif
    @if($page->lookupProposals === [])<x-empty>No further join would be better as a lookup.</x-empty>@else
    <h3>Joins that would be better as lookups</h3>
    <x-table name="Joins that would be better as lookups" :export="false"><thead><tr>
    <th scope="col">Dimension</th><th scope="col">Key and columns</th><th scope="col" class="n">Statements</th>
    <th scope="col" class="n">of them filter by it</th><th scope="col" class="n">Executions a week</th>
    <th scope="col" class="n">Memory a node</th><th scope="col" class="n">Saves a week</th>@can('run')<th scope="col"><span
    class="visually-hidden">Acts</span></th>@endcan</tr></thead>
    <tbody>@foreach($page->lookupProposals as $p)<tr data-row><td class="mono"><a href="{{ address('layout.show', [$cluster->slug,
        $p->table->name]) }}">{{ $p->table->name }}</a></td><td class="mono">{{ $p->key }}; {{ implode(', ', array_diff($p->columns,
        [$p->key])) }}</td><td class="n">{{ count($p->served) }}</td><td class="n">{{ $p->filtering }}</td>
        <td class="n">{{ Quantity::count($p->executions) }}</td>
        <td class="n">{{ Quantity::bytes($p->bytes * $p->table->rowFactor) }}</td>
        <td class="n">{{ Quantity::duration($p->savedUs) }}</td>@can('run')<td class="acts"><form method="post" action="{{
            address('rollup.lookup', [$cluster->slug, $p->table->name]) }}">@csrf<button class="plain">Propose it</button></form>
        </td>@endcan</tr>@endforeach</tbody></x-table>
    <p class="quiet small">Whether the key is unique is checked on all rows when the lookup is made, and refused with the values that
        repeat.</p>@endif
    @endif
</div>
</x-layout>
