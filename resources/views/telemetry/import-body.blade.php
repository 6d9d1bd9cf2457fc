@php
    use App\Platform\Support\MomentStyle; use Fulcrion\Core\Text\Quantity;
    $all = $import->accepted + $import->repeated + $import->rejected;
    $window = $import->first_us === null ? null : moment($import->first_us, MomentStyle::Written).' to '.
        moment($import->last_us + 300_000_000, MomentStyle::Written);
@endphp
<h1>
@switch($import->isSilent() ? 'broken off' : $import->state)
    @case('mapping')The columns of {{ $import->file_name }} have to be named first @break
    @case('waiting'){{ $import->file_name }} waits for the worker @break
    @case('running')Reading {{ $import->file_name }}: {{ Quantity::percent($import->progress()) }} done @break
    @case('stopped')Stopped: {{ Quantity::count($import->accepted) }} executions were taken and stay @break
    @case('failed')The import failed after {{ Quantity::count($import->accepted) }} executions, which stay @break
    @case('broken off')The import broke off after {{ Quantity::count($import->accepted) }} executions, which stay @break
    @default{{ Quantity::count($import->accepted) }} executions were taken from {{ $import->file_name }}{{
        $import->repeated > 0 ? ', '.Quantity::count($import->repeated).' were there already' : '' }}{{
        $import->rejected > 0 ? ', '.Quantity::count($import->rejected).' set aside' : '' }}
@endswitch
</h1>
@if($import->state === 'mapping')<p><a href="{{ address('import.columns', $import->id) }}">Name the columns</a></p>@endif
@if($import->state === 'running')<p><x-progress :of="$import->progress()" label="Import progress" /></p>@endif
@if($import->error)<div class="notice bad" role="alert">{{
    $import->error }} Fix the cause and send the file again; what is there already is not counted twice.</div>@endif
@if($import->isSilent())<div class="notice bad">Its process ended without a word. Send the file again: what is there already is not
    counted twice.</div>@endif
<x-facts>
    <tr><th scope="row">Cluster</th><td>{{ $import->cluster->name }}</td></tr>
    <tr><th scope="row">Format</th><td>{{ $import->format->describe() }}</td></tr>
    <tr><th scope="row">Records read</th><td>{{ Quantity::count($all) }}, {{ Quantity::count($import->recordsPerSecond() === null ? null
        : round($import->recordsPerSecond())) }} a second</td></tr>
    <tr><th scope="row">Taken</th><td>{{ Quantity::count($import->accepted) }}</td></tr>
    <tr><th scope="row">There already</th><td>{{ Quantity::count($import->repeated) }}</td></tr>
    <tr><th scope="row">Set aside</th><td>{{ Quantity::count($import->rejected) }}</td></tr>
    @if($window)<tr><th scope="row">Executions from</th><td>{{ $window }}, {{
        auth()->user()->zone()->getName() }}</td></tr>@endif
</x-facts>
<div class="tools">
    @if($import->isOver() && $window && $import->accepted + $import->repeated > 0)<a href="{{ address('statements.index') }}?{{
        http_build_query(['cluster' => $import->cluster->slug, 'window' => $window]) }}">Look at its statements</a>@endif
    @can('import')
        @if($import->rejected > 0)<a href="{{ address('import.rejected', $import->id) }}">Download what was set aside</a>@endif
        @unless($import->isOver())<form method="post" action="{{ address('import.stop', $import->id) }}">@csrf<button
            class="btn btn-line">Stop</button></form>@endunless
    @endcan
</div>
@if($reasons->isNotEmpty())
    <h2>Why records were set aside</h2>
    <x-table name="Reasons"><thead><tr><th scope="col">Field</th>
    <th scope="col">Reason</th><th scope="col" class="n">Records</th></tr></thead><tbody>@foreach($reasons as $reason)<tr>
    <td class="mono">{{ $reason->field }}</td><td>{{ $reason->reason }}</td>
    <td class="n">{{ Quantity::count((int) $reason->records) }}</td></tr>@endforeach</tbody></x-table>
    <p class="quiet small">Download them, fix them, and send that file: it is read like any other.</p>
    <details class="twin"><summary>The first {{ $rejections->count() }} by line</summary>
    <x-table name="Lines set aside" :export="false" :sorts="false">
    <thead><tr>
    <th scope="col" class="n">Line</th><th scope="col">Field</th><th scope="col">Reason</th></tr></thead>
    <tbody>@foreach($rejections as $rejection)<tr><td class="n">{{ $rejection->line }}</td><td class="mono">{{ $rejection->field }}</td>
    <td>{{ $rejection->reason }}</td></tr>@endforeach</tbody></x-table></details>
@endif
