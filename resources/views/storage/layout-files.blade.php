<x-layout title="Folders of files" bench="tune" sub="layout">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('layout.index') }}">Layout</a></p>
    <h1>{{ $folders === [] ? 'No folder of Parquet files is mapped yet' : count($folders).' '.Str::plural('folder',
        count($folders)).' of Parquet files '.(count($folders) === 1 ? 'is' : 'are').' mapped' }}</h1>
    <p>A table that is a folder of Parquet files, flat or in folders named <code>key=value</code>, is mapped and advised on from the
        footers of its files. No data is read.</p>
    @can('run')
    <form class="form-grid" method="post" action="{{ address('files.store') }}" enctype="multipart/form-data">@csrf
        <label for="files-path">Folder on this server</label><input class="form-control mono" id="files-path" name="path" value="{{
            old('path') }}" placeholder="{{ $roots[0] ?? '' }}">
        <p class="hint">@if($roots === [])No root is configured: name one in FULCRION_LAKE.@else Below {{
            implode(', ', array_map(fn ($root) => basename($root), $roots)) }}.@endif</p>
        <label for="files-zip">or a zip file</label><input class="form-control" id="files-zip" type="file" name="zip"
            accept=".zip,application/zip">
        @if($errors->any())<p class="hint bad-text" role="alert">{{ $errors->first() }}</p>@endif
        <span></span><div><button class="btn btn-primary">Map it</button></div>
    </form>
    @endcan
    @if($folders !== [])<x-table name="Folders" :export="false" :sorts="false">
    <thead><tr><th scope="col">Folder</th><th scope="col">From</th><th scope="col"></th></tr></thead>
    <tbody>@foreach($folders as $name => $from)<tr data-row><td><a href="{{ address('files.show', $name) }}">{{ $name }}</a></td>
    <td class="mono">{{ $from }}</td><td>@can('run')<form method="post" action="{{ address('files.forget', $name) }}">@csrf<button
        class="plain">forget</button></form>@endcan</td></tr>@endforeach</tbody></x-table>@endif
</div>
</x-layout>
