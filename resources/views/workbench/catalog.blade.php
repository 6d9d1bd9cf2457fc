@php use Fulcrion\Core\Text\Quantity; @endphp
<x-layout title="Catalog" bench="tune" sub="catalog">
<div class="reading">
    <h1>{{ $sentence }}</h1>
    <x-filters :to="address('catalog.index')">
        <div><label for="catalog-cluster">Cluster</label><select class="form-select" id="catalog-cluster" name="cluster"
            data-submits>@foreach($clusters as $each)<option value="{{ $each->slug }}" @selected($each->id === $cluster?->id)>{{
            $each->name }}</option>@endforeach</select></div>
        <x-search id="catalog-words" label="Name of a table or column" :value="$words" />
        <div><label for="catalog-sort">Sorted by</label><select class="form-select" id="catalog-sort" name="sort"
            data-submits>@foreach(['bytes' => 'size', 'rows' => 'rows', 'name' => 'name'] as $key => $label)<option value="{{
            $key }}" @selected($key === $sort)>{{ $label }}</option>@endforeach</select></div>
    </x-filters>
    @if($trouble)<div class="notice bad" role="alert">{{ $trouble }}</div>@endif
    @if(! $able && $cluster !== null)<p>A cluster whose telemetry comes from files has no connector that could list its tables. Practice
        clusters and live servers have.</p>
    @elseif($objects === [] && ! $trouble)<p>{{ $words === '' ? 'There is no table yet.'
        : "No table or column has \"{$words}\" in its name." }}</p>
    @elseif($objects !== [])
    <x-table name="Tables and views" export="Catalog">
        <thead><tr><th scope="col">Table or view</th><th scope="col" class="n">Rows</th>
        <th scope="col" class="n">Size <x-scale :factor="max([1, ...array_column($objects, 'scale')])" /></th>
        <th scope="col" class="n">Columns</th><th scope="col">Placed</th><th scope="col">Cut</th><th scope="col" class="n">Chunks</th>
        <th scope="col">Statistics</th></tr></thead>
        <tbody>@foreach($objects as $object)<tr data-row>
            <td class="mono"><a href="{{ address('catalog.show', [$cluster->slug, $object->schema, $object->name]) }}">{{
                $object->schema }}.{{ $object->name }}</a>{{ $object->isView ? ' (view)' : '' }}</td>
            <td class="n">{{ $object->rows === null ? Quantity::NONE : Quantity::count($object->rows) }}</td>
            <td class="n">{{ $object->bytes === null ? Quantity::NONE : Quantity::bytes($object->bytes) }}</td>
            <td class="n">{{ count($object->columns) }}</td>
            @foreach(['placed', 'cut', 'chunks', 'statistics'] as $fact)<td @class(['n' => $fact === 'chunks'])>{{
                $object->facts[$fact] ?? Quantity::NONE }}</td>@endforeach
        </tr>@endforeach</tbody></x-table>
    @endif
</div>
</x-layout>
