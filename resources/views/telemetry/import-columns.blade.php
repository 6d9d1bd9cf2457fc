<x-layout title="Columns of {{ $import->file_name }}" bench="tune" sub="imports">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('import.index') }}">Imports</a> / {{ $import->file_name }}</p>
    <h1>Which column of {{ $import->file_name }} means what?</h1>
    <p>{{ count($map->fields) }} of {{
        count($header) }} columns were recognised by name. The first three fields are required; times need their unit.</p>
    <form method="post" action="{{ address('import.save-columns', $import->id) }}">
        @csrf
        <x-table name="Columns" :export="false" :sorts="false">
            <thead><tr><th scope="col">Field</th><th scope="col">Column</th><th scope="col">Unit</th>
            <th scope="col">In the first lines</th></tr></thead>
            <tbody>
            @foreach($fields as $i => $field)
                @php($chosen = old("column.{$field}", $map->fields[$field]['column'] ?? ''))
                <tr><th scope="row" class="mono">{{ $field }}{{ $i < 3 ? ' (required)' : '' }}</th>
                    <td><select class="form-select" name="column[{{ $field }}]" aria-label="Column for {{ $field }}">
                    <option value="">none</option>@foreach($header as $column)<option @selected($chosen === $column)>{{
                    $column }}</option>@endforeach</select></td>
                    <td>@if(Fulcrion\Core\Telemetry\ColumnMap::isTime($field))<select class="form-select" name="unit[{{
                        $field }}]" aria-label="Unit of {{ $field }}">@foreach(['us' => 'µs', 'ms' => 'ms', 's' => 's'] as $unit
                        => $label)<option value="{{ $unit }}" @selected(old("unit.{$field}", $map->fields[$field]['unit']
                        ?? 'us') === $unit)>{{ $label }}</option>@endforeach</select>@endif</td>
                    <td class="mono quiet">@php($place = array_search($chosen, $header, true))@if($place !== false){{
                        collect($examples)->map(fn ($row) => App\Platform\Support\Sql::line((string) ($row[$place] ?? ''),
                        50))->implode(' · ') }}@endif</td></tr>
            @endforeach
            </tbody>
        </x-table>
        <p><button class="btn btn-primary">Import with these columns</button></p>
    </form>
    <form method="post" action="{{ address('import.stop', $import->id) }}">@csrf<button
        class="plain">Do not import this file</button></form>
</div>
</x-layout>
