@php
    use Fulcrion\Core\Text\Quantity;
    $done = $runs->where('state', 'done');
@endphp
<x-layout title="Encodings" bench="tune" sub="encodings">
<div class="reading">
    <h1>{{ $done->isEmpty() ? 'No table was stored in other ways yet; choose one, and see what it would take'
        : $done->count().' '.Str::plural('sample', $done->count()).' '.($done->count() === 1 ? 'was'
        : 'were')." stored in every way worth trying, last {$done->first()->object}" }}</h1>
    @can('run')
    <form class="filters" method="post" action="{{ address('encoding.start') }}" enctype="multipart/form-data">@csrf
        <div><label for="lab-table">A table</label><select class="form-select mono" id="lab-table" name="table">
        <option value="">choose a table</option>@foreach($tables as $key => [$cluster, $layout])<option value="{{
        $key }}" @selected(old('table', request('table')) === $key)>{{ $layout->name }} on {{ $cluster }}, {{
        Quantity::bytes($layout->storedBytes * $layout->rowFactor) }}</option>@endforeach</select></div>
        <div><label for="lab-file">or a CSV or Parquet file</label><input class="form-control" type="file" id="lab-file" name="file"
            accept=".csv,.parquet,text/csv"></div>
        <button class="btn btn-primary">Store a sample every way</button>
    </form>
    @if($errors->any())<p class="bad-text" role="alert">{{ $errors->first() }}</p>@endif
    <p class="quiet small">Whole places of the table (all rows of a node and partition) are drawn, sorted as they come, by the key and by
        the best order found, then written with each encoding Parquet has and each compression, and read back. Nothing of the table is
        touched.</p>
    @else<p class="quiet">Starting a run reads rows of the table; it needs the role engineer.</p>@endcan
    @if($runs->isNotEmpty())
    <h2>Runs</h2>
    <x-table name="Runs"><thead><tr>
    <th scope="col">Table or file</th><th scope="col">State</th><th scope="col">Cluster</th><th scope="col" class="n">Sampled rows</th>
    <th scope="col">Started</th><th scope="col">By</th></tr></thead>
    <tbody>@foreach($runs as $run)<tr data-row><td class="mono"><a href="{{ address('encoding.show', $run->id) }}">{{
        $run->object }}</a></td>
    <td><x-state :is="['done' => 'calm', 'failed' => 'act', 'stopped' => 'no data'][$run->state] ?? 'watch'">{{
    $run->state }}</x-state></td><td>{{ $run->cluster?->name ?? 'file' }}</td><td class="n">{{ $run->lab() === null ? Quantity::NONE
    : Quantity::count($run->lab()->sampledRows()) }}</td><td class="nowrap">{{ moment($run->asked_us) }}</td>
    <td>{{ $run->asked_by }}</td></tr>@endforeach</tbody></x-table>
    @else<x-empty>No run yet.</x-empty>@endif
</div>
</x-layout>
