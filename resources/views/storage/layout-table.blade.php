@php
    use Fulcrion\Core\Text\Quantity;
    $d = $table->definition;
    $weeks = $estate->workload->touching($table->name);
    $limits = ($maintenance->thresholds ?? []) + App\Storage\Models\MaintenancePlan::THRESHOLDS;
@endphp
<x-layout title="{{ $table->name }}" bench="tune" sub="layout">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('layout.index') }}?cluster={{ $cluster->slug }}">Layout</a> / {{ $cluster->name }}</p>
    <h1>{{ $table->name }} has {{ Quantity::count(count($table->chunks)) }} {{ Str::plural('chunk', count($table->chunks)) }}{{
        $table->nodes > 1 ? " over {$table->nodes} nodes" : '' }}@if($chunkFigure !== null); {{
        Quantity::digits($overlap->meanDepth) }} of them cover each point of {{ $column }}@endif{{
        $share === null ? '' : ', and the workload reads '.Quantity::percent($share).' of the bytes' }}</h1>
    <div class="tools"><a href="#advice">Advice</a><a href="#maintenance">Maintenance</a><a href="{{
        address('catalog.show', [$cluster->slug, ...explode('.', $table->name, 2)]) }}">Catalog</a>@can('run')<a href="{{
            address('workbench.show') }}?cluster={{ $cluster->slug }}&amp;sql={{
        rawurlencode("SELECT *\nFROM {$table->name}\nLIMIT 100") }}">Query it in the workbench</a>@endcan</div>

    @if($findings->isNotEmpty())<h2>Findings</h2><ul class="annotated round">@foreach($findings as $finding)<x-finding-row
        :finding="$finding" />@endforeach</ul>@endif

    <div class="columns">
    <section><h2>Facts</h2><x-facts>
        <tr><th scope="row">rows</th><td>{{ Quantity::count($table->rows()) }} stored{{
            $table->rowFactor > 1 ? ', each for '.Quantity::count($table->rowFactor) : '' }}</td></tr>
        <tr><th scope="row">bytes</th><td>{{ Quantity::bytes($table->bytes() * $table->rowFactor) }}{{
            $table->storedBytes() > $table->bytes() ? ', '.Quantity::bytes($table->storedBytes() * $table->rowFactor).' with all copies'
            : '' }} <x-scale :factor="$table->rowFactor" /></td></tr>
        <tr><th scope="row">chunks</th><td>{{ Quantity::count(count($table->chunks)) }}, {{
            Quantity::percent($table->smallShare()) }} of them below a quarter of {{ Quantity::count($table->target()) }} rows</td></tr>
        <tr><th scope="row">placed</th><td>{{ $d->distribution->describe() }}, skew {{ Quantity::digits($table->skew()) }}</td></tr>
        <tr><th scope="row">cut</th><td>{{ $d->partitioning === null ? 'into no partitions'
            : $d->partitioning->describe().', '.count($table->partitions()).' '.Str::plural('partition',
            count($table->partitions())) }}</td></tr>
        <tr><th scope="row">sorted by</th><td>{{ $d->clustering()->describe() }}</td></tr>
        <tr><th scope="row">statistics</th><td>{{ $table->statistics->ageUs === null ? 'never collected'
            : Quantity::duration($table->statistics->ageUs).' old, of '.count($table->statistics->columns).' columns; '
                .Quantity::percent($table->statistics->changedShare).' of the rows changed since' }}</td></tr>
        <tr><th scope="row">versions kept</th><td>{{ count($table->history->versions) + 1 }}@if($table->history->versions !== []), oldest
            of {{ moment($table->history->versions[0]['writtenUs']) }}; {{ Quantity::bytes(array_sum(array_column(
            $table->history->versions, 'bytesAlone')) * $table->rowFactor) }} only for old ones @endif</td></tr>
        <tr><th scope="row">files of no version</th>
        <td>{{ $table->history->orphanFiles === 0 ? 'none' : $table->history->orphanFiles.', '
            .Quantity::bytes($table->history->orphanBytes * $table->rowFactor) }}</td></tr>
    </x-facts></section>
    <section><h2>Columns, and how often a week they are used</h2>
    <x-table name="Columns"><thead><tr><th scope="col">Column</th>
    <th scope="col">Type</th><th scope="col" class="n">Filtered</th><th scope="col" class="n">Joined</th>
    <th scope="col" class="n">Grouped</th><th scope="col" class="n">Read</th><th scope="col" class="n">Size</th></tr></thead>
        <tbody>@foreach($d->columns as $i => $each)@php $use = $uses[$each->name] ?? null; @endphp<tr><td class="mono">{{
            $each->name }}{{ $each->nullable ? '' : ' !' }}</td><td class="mono">{{ $each->type }}</td>@foreach(['filter', 'join',
            'group', 'read'] as $kind)<td class="n">{{ ($use[$kind] ?? 0) > 0 ? Quantity::count((int) round($use[$kind]))
            : Quantity::NONE }}</td>@endforeach<td class="n">{{ Quantity::bytes(array_sum(array_map(fn ($c) => $c->zones[$i]->bytes,
            $table->chunks)) * $table->rowFactor) }}</td></tr>@endforeach</tbody></x-table>
    <p class="quiet small">! may not be null. Read from the text of {{
        count($weeks->statements) }} statements of the last 28 days that use this table{{
        $estate->workload->unread > 0 ? '; '.$estate->workload->unread.' could not be parsed' : '' }}.</p></section>
    </div>

    @if($chunkFigure !== null)
    <div class="split"><h2 id="chunks">Chunks over the range of {{ $column }}</h2></div>
    <x-filters :to="'#chunks'">
        <div><label for="map-column">Column</label><select class="form-select" id="map-column" name="column"
            data-submits>@foreach($open as $each)<option @selected($each === $column)>{{ $each }}</option>@endforeach</select></div>
        @if($table->nodes > 1)<div><label for="map-node">Node</label><select class="form-select" id="map-node" name="node" data-submits>
        <option value="">all</option>@for($n = 1; $n <= $table->nodes; $n++)<option value="{{ $n }}" @selected($node === $n - 1)>{{
        $n }}</option>@endfor</select></div>@endif
    </x-filters>
    <p>At most {{ Quantity::count($overlap->maxDepth) }} chunks lie over a point, {{
        Quantity::digits($overlap->meanDepth) }} on average{{ $node === null && $table->nodes > 1 ? ', all nodes together'
        : '' }}.@if($overlap->empty > 0) {{ Quantity::count($overlap->empty) }} chunks hold only NULL there.@endif</p>
    <x-figure :figure="$chunkFigure" name="Chunks" />
    @elseif($table->chunks !== [])<div class="split"><h2 id="chunks">Chunks over the range of {{ $column }}</h2></div>
    <x-empty>The policy does not open all values of {{ $column }} to you, so the bounds of its chunks are not drawn.@if($open !==
        []) Choose another column:@foreach($open as $each) <a href="?column={{ urlencode($each) }}#chunks">{{
        $each }}</a>@endforeach @endif</x-empty>
    @else<x-empty>The table is empty: there is nothing to draw yet.</x-empty>@endif
    @if($nodeFigure !== null)<h2>Nodes</h2><x-figure :figure="$nodeFigure" name="Nodes" />@endif
    @if($partitionFigure !== null)<h2>Partitions</h2><x-figure :figure="$partitionFigure" name="Partitions" />@endif

    <h2 id="advice">Advice</h2>
    @can('run')
    <div id="advice-body" hx-get="{{ address('layout.advice', [$cluster->slug, $table->name]) }}" hx-trigger="load" hx-swap="outerHTML">
    <p class="quiet" role="status">Drawing a sample, sorting it each way and counting values…</p></div>
    @else<p class="quiet">Advice draws samples of the data; it needs the role engineer.</p>@endcan

    <h2>Who uses it</h2>
    @if($statements === [])<x-empty>No statement of the last 28 days reads it.</x-empty>@else
    <x-table name="Statements"><thead><tr>
    <th scope="col">Statement</th><th scope="col">Last run by</th><th scope="col" class="n">Executions a week</th>
    <th scope="col" class="n">Load a week</th><th scope="col" class="n">Reads of this table</th><th scope="col">Filters</th></tr></thead>
        <tbody>@foreach(array_slice($statements, 0, 25) as $statement)@php $use = $statement->of($table->name); @endphp<tr data-row>
        <td class="statement"><a href="{{ address('statement.show', $statement->id) }}?cluster={{
            $cluster->slug }}&amp;window=last+28+days">{{
        App\Platform\Support\Sql::line($texts[$statement->id] ?? '', 220) }}</a></td><td class="mono">{{
        $statement->user ?: Quantity::NONE }}</td><td class="n">{{ Quantity::count((int) round($statement->executions)) }}</td>
        <td class="n">{{ Quantity::duration($statement->durationUs) }}</td>
        <td class="n">{{ Quantity::percent($estate->reads($table)->share($use)) }}</td><td class="mono small">{{
        implode(', ', $use->filtered()) }}</td></tr>@endforeach</tbody></x-table>
    @if(count($statements) > 25)<p class="quiet small">25 of {{ count($statements) }} are shown, those with the most load.</p>@endif @endif

    @if($changes->isNotEmpty())<h2>Changes</h2><ul class="annotated round">@foreach($changes as $change)<li data-row><x-state
        :is="$change->mark()">{{ $change->state->value }}</x-state><div><p><a class="told-link" href="{{ address('change.show',
            $change->id) }}">{{ $change->title }}</a></p><p class="quiet small">asked by {{ $change->asked_by }}, {{
        moment($change->asked_us) }}</p></div><p></p></li>@endforeach</ul>@endif

    <h2 id="maintenance">Maintenance</h2>
    @if($maintenance !== null)<p>{{ implode(', ', array_map(fn ($act) => App\Storage\Models\MaintenancePlan::ACTS[$act],
        $maintenance->acts)) }}: {{ $maintenance->cron === null ? 'when needed' : "at {$maintenance->cron} (UTC)" }}{{
        $maintenance->paused ? ', paused' : '' }}. <a href="{{
            address('maintenance.index') }}">See what it did</a>.</p>@else<p>Nothing is done for
            this
        table by itself.</p>@endif
    @can('run')
    <details class="more" @if($errors->any()) open @endif>
    <summary>{{ $maintenance === null ? 'Set a schedule' : 'Change the schedule' }}</summary>
    <form class="form-grid" method="post" action="{{ address('maintenance.store', [$cluster->slug, $table->name]) }}">@csrf
        @if($errors->any())<p class="bad-text hint" role="alert">{{ $errors->first() }}</p>@endif
        <span>Do</span><div>@foreach(App\Storage\Models\MaintenancePlan::ACTS as $act => $label)<label class="check"><input
            class="form-check-input" type="checkbox" name="acts[]" value="{{ $act }}" @checked(in_array($act, old('acts',
            $maintenance->acts ?? ['compact', 'sort', 'statistics', 'expire']), true))> {{ $label }}</label>@endforeach</div>
        <label for="maintenance-when">When</label><select class="form-select" id="maintenance-when" name="when">
        <option value="needed" @selected(old('when', $maintenance?->cron === null ? 'needed' : 'cron') === 'needed')>when needed</option>
        <option value="cron" @selected(old('when', $maintenance?->cron === null ? 'needed'
            : 'cron') === 'cron')>by a cron expression</option>
        </select>
        <label for="maintenance-cron">Cron expression, UTC</label><input class="form-control mono" id="maintenance-cron" name="cron"
            value="{{
            old('cron', $maintenance?->cron ?? '0 3 * * *') }}">
        <label for="maintenance-small">Needed above this share of small chunks</label><input class="form-control" id="maintenance-small"
            name="small" value="{{ old('small', $limits['small']) }}" inputmode="decimal">
        <label for="maintenance-depth">or this many chunks of a node over a point</label><input class="form-control" id="maintenance-depth"
            name="depth" value="{{ old('depth', $limits['depth']) }}" inputmode="decimal">
        <label for="maintenance-changed">or this share of rows changed (statistics)</label><input class="form-control"
            id="maintenance-changed"
            name="changed" value="{{ old('changed', $limits['changed']) }}" inputmode="decimal">
        <label for="maintenance-days">Versions expire after days</label><input class="form-control" id="maintenance-days" name="expire_days"
            value="{{ old('expire_days', $maintenance->expire_days ?? 7) }}" inputmode="numeric">
        <label for="maintenance-keep">but keep at least</label><input class="form-control" id="maintenance-keep" name="keep" value="{{
            old('keep', $maintenance->keep ?? 2) }}" inputmode="numeric">
        <label for="maintenance-from">Only from hour (UTC)</label><input class="form-control" id="maintenance-from" name="hours_from"
            value="{{
            old('hours_from', $maintenance->hours_from ?? 0) }}" inputmode="numeric">
        <label for="maintenance-to">to hour</label><input class="form-control" id="maintenance-to" name="hours_to" value="{{
            old('hours_to', $maintenance->hours_to ?? 24) }}" inputmode="numeric">
        <span></span><div><label class="check"><input class="form-check-input" type="checkbox" name="paused" value="1"
            @checked($maintenance?->paused)> paused</label></div>
        <span></span><div><button class="btn btn-primary">Keep the schedule</button></div>
    </form></details>
    @endcan
</div>
</x-layout>
