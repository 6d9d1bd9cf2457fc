@php use Fulcrion\Core\Text\Quantity; @endphp
<x-layout title="Workbench" bench="tune" sub="workbench">
<div class="bench">
    <div class="bench-main">
        <h1>{{ $cluster === null ? 'No cluster is connected that could run a statement' : ($changes
            ? "{$cluster->name} is a practice cluster: whatever is tried here touches nothing else"
            : "{$cluster->name} is live: only reads are run, in a read-only transaction of at most 20 s") }}</h1>
        @if($trouble)<div class="notice bad" role="alert">{{ $trouble }}</div>@endif
        @if($note)<p class="quiet" role="note">{{ $note }}</p>@endif
        <div class="choices">
        <form id="scope" class="topline" method="get" action="{{ address('workbench.show') }}">
            <div><label for="bench-cluster">Cluster</label><select id="bench-cluster" class="form-select" name="cluster"
                data-submits>@foreach($clusters as $each)<option value="{{ $each->slug }}" @selected($each->id === $cluster?->id)>{{
                $each->name }}</option>@endforeach</select></div>
            <noscript><button class="btn btn-line">Choose</button></noscript>
        </form>
        <div class="topline"><div><label for="bench-schema">Schema for names without one</label><select id="bench-schema"
            class="form-select" name="schema" form="bench-form">@foreach($schemas as $each)<option @selected($each === $schema)>{{
            $each }}</option>@endforeach</select></div></div>
        </div>
        <form id="bench-form" method="post" action="{{ address('workbench.run') }}" data-workbench>
            @csrf
            <input type="hidden" name="cluster" value="{{ $cluster?->slug }}"><input type="hidden" name="key" value="{{
                Illuminate\Support\Str::uuid() }}"><input type="hidden" name="at" value="0"><input type="hidden" name="which"
                value="one"><input type="hidden" name="mode" value="run">
            <label class="visually-hidden" for="bench-sql">SQL</label>
            <x-editor id="bench-sql" :value="$sql" :rows="10" described="bench-keys" />
            <div class="tools">
                <button class="btn btn-primary" data-mode="run" data-which="one">Run</button>
                <button class="btn btn-line" data-mode="run" data-which="all">Run all</button>
                <button class="btn btn-line" data-mode="explain" data-which="one">Explain</button>
                <button class="btn btn-line" data-mode="actual" data-which="one">Explain with actual figures</button>
                <span class="quiet small" id="bench-keys">Ctrl+Enter runs the statement under the cursor, Ctrl+Shift+Enter all,
                    Ctrl+Space completes</span>
            </div>
        </form>
        <div class="running" hidden data-running role="status"><span data-state>Running</span>, <span data-elapsed></span> <button
            type="button" class="btn btn-line" data-stop>Stop</button></div>
        <div id="bench-outcome" aria-live="polite"></div>
        <h2>Before</h2>
        @include('workbench.workbench-history', ['words' => ''])
    </div>
    <aside class="bench-side" aria-label="Catalog">
        <h2>Catalog <x-scale :factor="max([1, ...array_column($objects, 'scale')])" /></h2>
        @if($objects === [])<p class="quiet">Nothing to list.</p>@endif
        @foreach(collect($objects)->groupBy('schema') as $name => $group)
            <h3>{{ $name }}</h3>
            @foreach($group as $object)
                <details class="table-of"><summary><span class="mono">{{ $object->name }}</span> <span class="quiet small">{{
                    $object->isView ? 'view' : Quantity::short($object->rows).' rows, '.Quantity::bytes($object->bytes) }}</span></summary>
                    <ul class="columns-of">@foreach($object->columns as [$column, $type, $nullable])<li><button type="button"
                        class="plain mono" data-insert="{{ $column }}">{{ $column }}</button> <span class="quiet small">{{ $type }}{{
                        $nullable ? '' : ', never null' }}</span></li>@endforeach</ul>
                    <button type="button" class="plain small" data-insert="{{ $object->schema }}.{{
                        $object->name }}">Insert the name</button>
                    <a class="small" href="{{ address('catalog.show', [$cluster?->slug, $object->schema, $object->name]) }}">More</a>
                </details>
            @endforeach
        @endforeach
        @if($changes)
        <h2>Inbox</h2>
        <form method="post" action="{{ address('workbench.receive') }}" enctype="multipart/form-data">@csrf<input type="hidden"
            name="cluster"
            value="{{ $cluster->slug }}">
            <label class="small" for="inbox-file">A CSV or Parquet file for COPY</label><input class="form-control inbox" id="inbox-file"
                type="file" name="file" accept=".csv,.parquet">
            @error('file')<div class="notice bad" role="alert">{{ $message }}</div>@enderror
            <button class="btn btn-line">Put it there</button>
        </form>
        @endif
    </aside>
</div>
</x-layout>
