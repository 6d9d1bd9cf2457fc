@props(['figure', 'name'])
@php /** @var App\Platform\Figures\Figure $figure */ @endphp
<figure data-figure @if($figure->plot) data-plot="{{ json_encode($figure->plot, JSON_THROW_ON_ERROR) }}" @endif>
    <div class="scroll" tabindex="0" role="group" aria-label="{{ $name }}, figure">{!! $figure->svg !!}</div>
    <p class="reading-line" aria-live="polite"></p>
    <figcaption>{{ $figure->how }}</figcaption>
    <details class="twin"><summary>{{ $name }} as a table</summary>
        <x-table :name="$name.' as a table'" :export="$name">
            <thead><tr>@foreach($figure->head as $i => $cell)<th scope="col" @class(['n' => $i > 0])>{{ $cell }}</th>@endforeach</tr>
            </thead>
            <tbody>@foreach($figure->rows as $row)<tr>@foreach($row as $i => $cell)<td @class(['n' => $i > 0])>{{
                $cell }}</td>@endforeach</tr>@endforeach</tbody>
        </x-table>
    </details>
</figure>
