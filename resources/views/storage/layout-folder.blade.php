@php use Fulcrion\Core\Text\Quantity; @endphp
<x-layout title="{{ $folder }}" bench="tune" sub="layout">
<div class="reading">
    <p class="trail"><a href="{{ address('layout.index') }}">Layout</a> / <a data-back href="{{
        address('files.index') }}">Folders of files</a></p>
    @if($table === null)<h1>{{ $folder }} cannot be mapped</h1><div class="notice bad" role="alert">{{ $trouble }}</div>
    @else
    <h1>{{ $folder }} holds {{ Quantity::count($table->rows()) }} rows in {{ Quantity::count(count($table->chunks)) }} files of {{
        Quantity::bytes($table->bytes()) }}{{
        $table->chunks === [] ? '' : '; '.Quantity::percent($table->smallShare()).' of the files are below 64 MiB' }}</h1>
    @if($refused !== [])<h2>{{ count($refused) }} {{ Str::plural('file', count($refused)) }} left out</h2>
    <x-table name="Files left out"><thead><tr>
    <th scope="col">File</th><th scope="col">Why</th></tr></thead><tbody>@foreach(array_slice($refused, 0, 100) as [$file, $why])<tr>
    <td class="mono">{{ $file }}</td><td>{{ $why }}</td></tr>@endforeach</tbody></x-table>@endif
    @if($table->chunks === [])<x-empty>No Parquet file lies in this folder.</x-empty>@else
    <h2>Columns</h2>
    <x-table name="Columns" class="narrow"><thead><tr>
    <th scope="col">Column</th><th scope="col">Type</th><th scope="col" class="n">Size</th></tr></thead>
    <tbody>@foreach($table->definition->columns as $i => $each)<tr><td class="mono">{{ $each->name }}</td><td class="mono">{{
    $each->type }}</td><td class="n">{{ Quantity::bytes(array_sum(array_map(fn ($c) => $c->zones[$i]->bytes, $table->chunks))) }}</td>
    </tr>@endforeach</tbody></x-table>
    <h2 id="chunks">Files over the range of {{ $column }}</h2>
    <x-filters :to="'#chunks'">@if($sql !== '')<input type="hidden" name="sql" value="{{
        $sql }}">@endif<div><label for="map-column">Column</label><select class="form-select" id="map-column" name="column"
        data-submits>@foreach($table->definition->columns as $each)<option @selected($each->name === $column)>{{
        $each->name }}</option>@endforeach</select></div></x-filters>
    <p>At most {{ Quantity::count($overlap->maxDepth) }} files lie over a point, {{ Quantity::digits($overlap->meanDepth) }} on average.</p>
    <x-figure :figure="$chunkFigure" name="Files" />
    @if($partitionFigure !== null)<h2>Partitions</h2><x-figure :figure="$partitionFigure" name="Partitions" />@endif
    <h2 id="advice">Advice</h2>
    <form method="get" action="#advice"><input type="hidden" name="column" value="{{ $column }}">
        <label for="folder-sql">Statements that read it (the table is called <code>files</code>), separated by semicolons; each counts
            once a week</label>
        <x-editor id="folder-sql" :value="$sql" :rows="4" :words="[...array_map(fn ($c) => $c->name, $table->definition->columns), 'files']"
            :placeholder="'SELECT count(*) FROM files WHERE '.$table->definition->columns[0]->name.' = ...'" />
        @if($unread > 0)<p class="bad-text" role="alert">{{
            $unread }} of them could not be read or do not read files; the others count.</p>@endif
        <p><button class="btn btn-line">Advise</button></p>
    </form>
    <p class="quiet small">Sizes are exact. What an order would let skip is estimated: rows are imagined spread evenly between the least
        and greatest value of each file, since no data is read.</p>
    @include('storage.layout-advice', ['trouble' => null, 'cluster' => null])
    @endif @endif
</div>
</x-layout>
