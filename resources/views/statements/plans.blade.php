@php
    use Fulcrion\Core\Text\Quantity;
    $changed = count(array_unique(array_map(fn ($p) => $p->cluster.$p->statement, array_filter($plans, fn ($p) => $p->shapes > 1))));
@endphp
<x-layout title="Plans" bench="tune" sub="plans">
<div class="reading">
    <h1>{{ $plans === [] ? ($words === '' && $cluster === null ? 'No plan is kept yet' : 'No plan that is kept fits these choices')
        : ($changed === 0 ? count($plans).' plans are kept; no statement has had more than one' : ($changed === 1 ? 'One statement'
        : "{$changed} statements")." of those kept changed ".($changed === 1 ? 'its' : 'their').' plan') }}</h1>
    <x-filters :to="address('plan.index')">
        <div><label for="plans-cluster">Cluster</label><select class="form-select" id="plans-cluster" name="cluster" data-submits>
        <option value="">every one</option>@foreach($clusters as $each)<option value="{{
        $each->slug }}" @selected($each->id === $cluster?->id)>{{ $each->name }}</option>@endforeach</select></div>
        <x-search id="plans-words" label="Words in the statement" :value="$words" />
    </x-filters>
    @if($plans === [])<p>Plans come from the workbench, from a statement's page, or from a file read in below.</p>
    @else
    <x-table name="Plans">
        <thead><tr><th scope="col">Statement</th><th scope="col">Cluster</th><th scope="col" class="n">Plans it had</th>
        <th scope="col">First seen</th><th scope="col">Last seen</th><th scope="col" class="n">Executions</th>
        <th scope="col" class="n">Mean latency</th></tr></thead>
        <tbody>@foreach($plans as $each)<tr data-row>
            <td class="statement mono"><a href="{{ address('plan.show', $each->id) }}">{{
                $each->text === null ? 'plan '.substr($each->shape, 0,
                8) : App\Platform\Support\Sql::line($each->text, 110) }}</a></td><td>{{ $each->cluster }}</td>
                <td class="n">{{ $each->shapes }}</td>
            <td class="nowrap">{{ moment((int) $each->first_us) }}</td><td class="nowrap">{{ moment((int) $each->last_us) }}</td>
            <td class="n">{{ $each->executions ? Quantity::count((int) $each->executions) : 'not run' }}</td>
            <td class="n">{{ $each->executions ? Quantity::duration(intdiv((int) $each->duration_us, (int) $each->executions))
            : Quantity::NONE }}</td>
        </tr>@endforeach</tbody></x-table>
    @endif
    @can('run')
    <h2>Read a plan from a file</h2>
    <form class="form-grid" method="post" action="{{ address('plan.store') }}" enctype="multipart/form-data">@csrf
        <label for="import-cluster">Cluster</label><select class="form-select" id="import-cluster" name="cluster">@foreach($clusters
            as $each)<option
            value="{{ $each->slug }}" @selected($each->slug === old('cluster'))>{{ $each->name }}</option>@endforeach</select>
        <label for="import-file">File</label><input class="form-control" id="import-file" type="file" name="file"
            accept=".json,application/json" aria-describedby="import-hint">
        <p class="hint quiet small" id="import-hint">Output of EXPLAIN FORMAT=JSON or ANALYZE FORMAT=JSON of MariaDB, or a plan taken
            away here.</p>
        <label for="import-json">or its text</label><textarea class="form-control mono" id="import-json" name="json" rows="4">{{
            old('json') }}</textarea>
        <label for="import-sql">Statement it is of</label><textarea class="form-control mono" id="import-sql" name="sql" rows="2">{{
            old('sql') }}</textarea>
        @error('file')<div class="notice bad" role="alert">{{ $message }}</div>@enderror
        <span></span><button class="btn btn-primary">Read the plan</button>
    </form>
    @endcan
</div>
</x-layout>
