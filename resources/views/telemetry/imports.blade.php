@php use Fulcrion\Core\Text\Quantity; $running = $imports->where('state', 'running')->reject->isSilent()->count(); @endphp
<x-layout title="Imports" bench="tune" sub="imports">
<div class="reading">
    <h1>@if($imports->isEmpty())No file was imported yet @else{{
        Quantity::count($imports->sum('accepted')) }} executions were taken from {{ $imports->count() }} {{ Str::plural('file',
        $imports->count()) }}{{ $running > 0 ? "; {$running} running" : '' }}@endif</h1>
    @can('import')
    <form class="filters" method="post" action="{{ address('import.store') }}" enctype="multipart/form-data" x-data="upload"
        @@submit="send">
        @csrf
        <div><label for="cluster">Cluster it ran on</label><select class="form-select" id="cluster" name="cluster">@foreach($clusters
            as $cluster)<option value="{{ $cluster->slug }}" @selected($cluster->slug === session('cluster'))>{{
            $cluster->name }}</option>@endforeach</select></div>
        <div><label for="file">File: JSON Lines, CSV with header, or slow query log; plain or gzip</label><input class="form-control"
            id="file" type="file" name="file" required></div>
        <button class="btn btn-primary" x-show="idle">Import</button>
        <span x-cloak x-show="sending"><span x-text="said"></span> <button type="button" class="btn btn-line"
            @@click="stop">Stop</button></span>
        <span class="bad-text" role="alert" x-text="failed"></span>
        @error('file')<span class="bad-text" role="alert">{{ $message }}</span>@enderror
    </form>
    <p class="quiet small">On the server: <code>./fulcrion artisan telemetry:import FILE --cluster=NAME</code>. The record is described
        in docs/formats/execution.md. The same file sent twice counts once.</p>
    @endcan
    @if($imports->isNotEmpty())
    <x-table name="Imports">
        <thead><tr><th scope="col">File</th><th scope="col">Cluster</th><th scope="col">Format</th><th scope="col">State</th>
        <th scope="col" class="n">Taken</th><th scope="col" class="n">Repeated</th><th scope="col" class="n">Set aside</th>
        <th scope="col" class="n">Records a second</th><th scope="col">Sent</th><th scope="col">By</th></tr></thead>
        <tbody>@foreach($imports as $import)
            <tr data-row><td><a href="{{ address('import.show', $import->id) }}">{{ $import->file_name }}</a></td>
            <td>{{ $import->cluster->name }}</td><td>{{ $import->format->describe() }}</td>
            <td>{{ $import->isSilent() ? 'broken off' : ($import->state === 'mapping' ? 'waits for its columns'
            : $import->state) }}</td><td class="n">{{ Quantity::count($import->accepted) }}</td>
            <td class="n">{{ Quantity::count($import->repeated) }}</td><td class="n">{{ Quantity::count($import->rejected) }}</td>
            <td class="n">{{ Quantity::count($import->recordsPerSecond() === null ? null : round($import->recordsPerSecond())) }}</td>
            <td class="nowrap">{{ moment($import->created_at) }}</td>
            <td>{{ $import->user->name ?? 'command line' }}</td></tr>
        @endforeach</tbody>
    </x-table>
    @endif
</div>
</x-layout>
