@php use Fulcrion\Core\Text\Quantity; use App\Storage\Application\LayoutList;
    $keep = fn (array $with) => address('layout.index').'?'.http_build_query(array_filter($with + request()->query(), fn ($v) => $v !== ''
    && $v !== null)); @endphp
<x-layout title="Layout" bench="tune" sub="layout">
<div class="reading">
    <h1>{{ $able || $cluster === null ? $list->sentence($cluster) : "{$cluster->name} does not tell how its tables lie" }}</h1>
    <x-filters :to="address('layout.index')">
        <div><label for="layout-cluster">Cluster</label><select class="form-select" id="layout-cluster" name="cluster"
            data-submits>@foreach($clusters as $each)<option value="{{ $each->slug }}" @selected($each->id === $cluster?->id)>{{
            $each->name }}</option>@endforeach</select></div>
        <x-search id="layout-words" label="Name of a table" :value="$list->words" />
        <div><label for="layout-rule">Finding</label><select class="form-select" id="layout-rule" name="rule" data-submits>
        <option value="">any or none</option>@foreach($rules as $id => $rule)<option value="{{ $id }}" @selected($id === $list->rule)>{{
        $rule->title() }}</option>@endforeach</select></div>
        <div><label for="layout-only">Tables</label><select class="form-select" id="layout-only" name="only" data-submits>
        <option value="">all</option><option value="found" @selected($list->onlyFound)>with findings</option></select></div>
        <div><label for="layout-sort">Sorted by</label><select class="form-select" id="layout-sort" name="sort"
            data-submits>@foreach(LayoutList::SORTS as $key => $label)<option value="{{ $key }}" @selected($key === $list->sort)>{{
            $label }}</option>@endforeach</select></div>
    </x-filters>
    <div class="tools">
        @if($able)@can('run')<form method="post" action="{{ address('layout.audit', $cluster->slug) }}">@csrf<button
            class="plain">Check all tables now</button></form>@endcan @endif
        <a href="{{ address('layout.rules') }}?cluster={{ $cluster?->slug }}">House rules</a><a
            href="{{ address('maintenance.index') }}">Maintenance schedules</a><a href="{{
                address('files.index') }}">Folders of files</a>@if($list->layouts !==
            [])<x-scale :factor="array_values($list->layouts)[0]->rowFactor" />@endif
    </div>
    @php $lacking = $list->waiting->whereIn('rule', ['missing-statistics', 'stale-statistics'])->pluck('object')->unique()->count(); @endphp
    @if($lacking > 0)@can('run')<form class="filters" method="post" action="{{ address('layout.statistics',
        $cluster->slug) }}">@csrf<div><label for="parallel">{{ $lacking }} {{ Str::plural('table', $lacking) }} {{
        $lacking === 1 ? 'lacks' : 'lack' }} statistics; collect this many at once</label><input class="form-control short" id="parallel"
        name="parallel" value="{{ old('parallel', 2) }}" inputmode="numeric"></div><button
        class="btn btn-line">Collect them</button></form>@error('parallel')<p class="bad-text" role="alert">{{
        $message }}</p>@enderror @endcan @endif
    @if($trouble)<div class="notice bad" role="alert">{{ $trouble }}</div>@endif
    @if(! $able && $cluster !== null)<x-empty>{{
        $cluster->isLive() ? 'A live MariaDB server keeps to itself where its pages lie, so there is nothing here to lay out better. '
            .'Its statements and plans are under Tune.' : 'This cluster is known from files of executions only.'
                }} Practice clusters and <a href="{{ address('files.index') }}">folders of Parquet files</a> can be mapped.</x-empty>
    @elseif($figure !== null)
    <x-figure :figure="$figure" name="Tables by size" />
    @php $tables = $list->tables(); $kinds = $list->kinds(); @endphp
    @if($kinds !== [])
    <h2>Findings by kind</h2>
    <x-table name="Findings by kind" class="narrow">
    <thead><tr><th scope="col">Kind</th><th scope="col" class="n">Tables or statements</th>
    <th scope="col" class="n">Modelled time a week</th></tr></thead>
        <tbody>@foreach($kinds as $kind)<tr><td><a href="{{ $keep(['rule' => $kind['rule']]) }}">{{
            isset($rules[$kind['rule']]) ? $rules[$kind['rule']]->title() : $kind['rule'] }}</a></td>
            <td class="n">{{ $kind['findings'] }}</td><td class="n">{{ $kind['weightUs'] > 0 ? Quantity::duration($kind['weightUs'])
            : Quantity::NONE }}</td></tr>@endforeach</tbody></x-table>
    @endif
    <h2>{{ count($tables) === count($list->layouts) ? 'All' : count($tables).' of '.count($list->layouts) }} tables</h2>
    @if($tables === [])<x-empty>No table has this name and this finding. <a href="{{ address('layout.index') }}?cluster={{
        $cluster->slug }}">Show all</a>.</x-empty>@else
    <x-table name="Tables">
        <thead><tr><th scope="col">Table</th><th scope="col">State</th><th scope="col" class="n">Weight a week</th>
        <th scope="col" class="n">Rows</th>
        <th scope="col" class="n">Stored <x-scale :factor="array_values($list->layouts)[0]->rowFactor" /></th>
        <th scope="col" class="n">Chunks</th><th scope="col" class="n">Small</th><th scope="col" class="n">Skew</th>
        <th scope="col">Placed</th><th scope="col">Cut</th></tr></thead>
        <tbody>@foreach($tables as $table)@php $found = $list->findings[$table->name] ?? collect(); @endphp<tr data-row>
            <td class="mono"><a href="{{ address('layout.show', [$cluster->slug, $table->name]) }}">{{ $table->name }}</a></td>
            <td><x-state :is="$found->isEmpty() ? 'calm' : ($list->acts($table) ? 'act' : 'watch')">{{
                $found->isEmpty() ? 'calm' : $found->count().' '.Str::plural('finding', $found->count()) }}</x-state></td>
            <td class="n">{{ $list->weight($table) > 0 ? Quantity::duration($list->weight($table)) : Quantity::NONE }}</td>
            <td class="n">{{ Quantity::count($table->rows) }}</td>
            <td class="n">{{ Quantity::bytes($table->storedBytes * $table->rowFactor) }}</td>
            <td class="n">{{ Quantity::count($table->chunks) }}</td>
            <td class="n">{{ Quantity::percent($table->smallShare()) }}</td>
            <td @class(['n', 'off' => $table->skew() >= 1.5 && $table->rows > 20000])>{{ Quantity::digits($table->skew()) }}×</td>
            <td>{{ $table->definition->distribution->describe() }}</td>
            <td>{{ $table->definition->partitioning === null ? 'into no partitions'
            : $table->definition->partitioning->describe().', '.$table->partitions }}</td>
        </tr>@endforeach</tbody></x-table>
    <p class="quiet small">Rows are those stored; bytes are of the modelled cluster, where each stored row stands for {{
        Quantity::count(array_values($list->layouts)[0]->rowFactor) }}. A chunk is small below a quarter of its target.</p>
    @endif
    @elseif($able && ! $trouble)<x-empty>There is no table yet. Make one in the <a href="{{ address('workbench.show') }}?cluster={{
        $cluster->slug }}">workbench</a>.</x-empty>
    @endif
</div>
</x-layout>
