@php use Fulcrion\Core\Text\Quantity; @endphp
<x-layout title="{{ $object->schema }}.{{ $object->name }}" bench="tune" sub="catalog">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('catalog.index') }}?cluster={{ $cluster->slug }}">Catalog</a> / {{ $cluster->name }} / {{
        $object->schema }}</p>
    <h1>{{ $object->schema }}.{{ $object->name }} {{ $object->isView ? 'is a view of '.count($object->columns).' columns'
        : 'holds '.Quantity::count($object->rows).' rows of '.count($object->columns).' columns in '.Quantity::bytes($object->bytes)
        }} <x-scale :factor="$object->scale" /></h1>
    @can('run')<div class="tools"><a href="{{ address('workbench.show') }}?cluster={{ $cluster->slug }}&amp;schema={{
        $object->schema }}&amp;sql={{
        rawurlencode("SELECT *\nFROM {$object->schema}.{$object->name}\nLIMIT 100") }}">Query it in the workbench</a></div>@endcan
    @if($object->facts !== [])
    <h2>Facts</h2>
    <x-facts>@foreach($object->facts as $name => $value)<tr><th scope="row">{{ $name }}</th><td>{{ $value }}</td>
    </tr>@endforeach</x-facts>
    @endif
    <h2>Columns</h2>
    <x-table name="Columns">
        <thead><tr><th scope="col">Column</th><th scope="col">Type</th><th scope="col">Can be null</th></tr></thead>
        <tbody>@foreach($object->columns as [$name, $type, $nullable])<tr><td class="mono">{{ $name }}</td><td class="mono">{{
            $type }}</td><td>{{ $nullable ? 'yes' : 'no' }}</td></tr>@endforeach</tbody></x-table>
</div>
</x-layout>
