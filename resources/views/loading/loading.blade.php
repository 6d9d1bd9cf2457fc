@php use App\Platform\Support\MomentStyle; use Fulcrion\Core\Text\Quantity; use Fulcrion\Core\Text\TypedRate; @endphp
<x-layout title="Loading in" bench="tend" sub="loading">
<div class="reading">
    @if($cluster !== null)
    <x-filters :to="address('loading.show')">
    <div><label for="loading-cluster">Cluster</label><select class="form-select" id="loading-cluster" name="cluster">
        @foreach($clusters as $each)<option value="{{ $each->slug }}" @selected($each->id === $cluster->id)>{{
            $each->name }}</option>@endforeach</select></div>
    @if(count($page['names']) > 1)<div><label for="loading-name">Delivery</label><select class="form-select" id="loading-name" name="name">
        @foreach($page['names'] as $each)<option @selected($each === $page['name'])>{{ $each }}</option>@endforeach</select></div>@endif
    </x-filters>
    @endif
    <h1>{{ $page['sentence'] ?? 'No cluster is watched yet' }}</h1>
    @if($page !== null)
    @if($page['shown'] === null)<x-empty>A delivery is known by its log: a line a file with its bytes and when it started and ended. Send it
        below, or by a program to <code>/api/deliveries/NAME</code> with a token that may send metrics.</x-empty>
    @else
    @php $shown = $page['shown']; $model = $page['model']; $measure = $shown->measure; $enough = $model->saturating(); @endphp
    <x-figure :figure="$page['figure']" name="Rate by number of streams" />
    <x-facts caption="The last delivery">
        <tr><th scope="row">came</th><td>{{ Quantity::count($measure->files) }} files of {{ Quantity::bytes($shown->leastBytes) }} to {{
            Quantity::bytes($shown->mostBytes) }}, {{ Quantity::bytes($measure->bytes) }} in all</td></tr>
        <tr><th scope="row">took</th><td>{{ Quantity::duration($measure->seconds * 1e6) }} with {{ Quantity::digits($measure->streams) }} {{
            $measure->streams < 1.05 ? 'stream' : 'streams' }}, {{ Quantity::bytes($measure->bytesPerSecond()) }}/s</td></tr>
        <tr><th scope="row">bound by</th><td>{{ $model->bound($measure->streams)->said() }}</td></tr>
        <tr><th scope="row">each file beside its bytes</th><td>{{ Quantity::duration($measure->fileSeconds * 1e6) }}, fitted to its
            files</td></tr>
        <tr><th scope="row">one stream while bytes come</th><td>{{ $measure->streamBytesPerSecond === null
            ? 'not known: the files are too much alike' : Quantity::bytes($measure->streamBytesPerSecond).'/s, fitted to its files'
            }}</td></tr>
        <tr><th scope="row">with {{ $enough }} {{ $enough === 1 ? 'stream' : 'streams' }}</th><td>{{
            Quantity::duration($model->seconds($enough) * 1e6) }}, {{ Quantity::duration($model->saved($enough) * 1e6) }} less,
            modelled</td></tr>
        <tr><th scope="row">in files of 256 MB, otherwise as now</th><td>{{ Quantity::duration($page['packed']->seconds($measure->streams)
            * 1e6) }}, modelled</td></tr>
    </x-facts>
    <h2>What its way lets through</h2>
    @if($model->limits === [])<p>Nothing is known of it yet.</p>@else
    <x-table name="What its way lets through" class="narrow"><thead><tr><th scope="col">Part</th><th scope="col" class="n">Lets through</th>
        <th scope="col" class="n">Used</th></tr></thead><tbody>@foreach($model->limits as $part => $rate)<tr data-row>
        <td>{{ ucfirst(Fulcrion\Core\Loading\TransferBound::from($part)->said()) }}</td><td class="n">{{ TypedRate::bits($rate) }}</td>
        <td class="n">{{ Quantity::percent($measure->bytesPerSecond() / $rate) }}</td></tr>@endforeach</tbody></x-table>@endif
    <p class="quiet small">@if($page['link'] === null)What its link lets through has to be said.@else The link: {{
        $page['link']->said_by }}, {{ moment($page['link']->said_us, MomentStyle::Minute) }}.@endif</p>
    @can('load')<form class="form-grid" method="post" action="{{ address('loading.link', $cluster->slug) }}">@csrf<input type="hidden"
        name="name" value="{{ $page['name'] }}"><label for="loading-rate">The link lets through</label><input class="form-control"
        id="loading-rate" name="rate" maxlength="40" placeholder="100 Mbit/s" value="{{ old('rate') }}">
        @error('rate')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <span></span><div><button class="btn btn-line">Keep it</button></div></form>@endcan
    <h2>The last deliveries</h2>
    <x-table name="Deliveries"><thead><tr><th scope="col">Began</th><th scope="col" class="n">Files</th><th scope="col"
        class="n">Bytes</th><th scope="col" class="n">Took</th><th scope="col" class="n">Rate</th><th scope="col"
        class="n">Streams</th></tr></thead><tbody>@foreach($page['last'] as $one)<tr data-row>
        <td class="nowrap">{{ moment($one->at * 1_000_000, MomentStyle::Minute) }}</td>
        <td class="n">{{ Quantity::count($one->measure->files) }}</td><td class="n">{{ Quantity::bytes($one->measure->bytes) }}</td>
        <td class="n">{{ Quantity::duration($one->measure->seconds * 1e6) }}</td><td class="n">{{
        Quantity::bytes($one->measure->bytesPerSecond()) }}/s</td><td class="n">{{ Quantity::digits($one->measure->streams) }}</td></tr>
        @endforeach</tbody></x-table>
    @endif
    <h2>Try it</h2>
    @if($page['trials'] !== [])@unless($page['trials'][0]->isOver())@include('loading.trial-progress', ['run' => $page['trials'][0]])
    @endunless @endif
    @if(($page['trials'][0]->error ?? null) !== null)<div class="notice bad" role="alert">{{ $page['trials'][0]->error }}</div>@endif
    @if($page['trialFigure'] !== null)<x-figure :figure="$page['trialFigure']" name="Rate by number of streams, tried" />
    @else<p>Files are brought for real, with one stream, two, four and eight, and taken away again: at most 512 MB, in a minute for
        each.</p>@endif
    @can('load')<form class="form-grid" method="post" action="{{ address('loading.try', $cluster->slug) }}">@csrf
        <label for="try-files">Files</label><input class="form-control" id="try-files" name="files" inputmode="numeric"
        value="{{ old('files', 60) }}">@error('files')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="try-least">from</label><input class="form-control" id="try-least" name="least" value="{{ old('least', '2 MB') }}">
        @error('least')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="try-most">to</label><input class="form-control" id="try-most" name="most" value="{{ old('most', '8 MB') }}">
        @error('most')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="try-from">Files of the folder</label><input class="form-control" id="try-from" name="from" value="{{ old('from') }}"
        placeholder="made up, of the sizes above">@error('from')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="try-to">Into the folder</label><input class="form-control" id="try-to" name="to" value="{{ old('to') }}"
        placeholder="{{ $cluster->connector === 'practice' ? 'the inbox of '.$cluster->name : 'a folder below FULCRION_LAKE' }}">
        @error('to')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <span></span><div><button class="btn btn-primary">Bring them</button></div></form>
    <h2>A log of a delivery</h2>
    <form class="form-grid" method="post" action="{{ address('loading.keep', $cluster->slug) }}" enctype="multipart/form-data">@csrf
        <label for="log-name">Name</label><input class="form-control" id="log-name" name="name" maxlength="120"
        value="{{ old('name', $page['name'] ?? 'nightly') }}">
        @error('name')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="log-file">Log</label><input class="form-control" type="file" id="log-file" name="log">
        @error('log')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <span></span><div><button class="btn btn-line">Read it</button> <span class="quiet small">CSV with bytes, started and ended, or JSON
        with these, a line a file.</span></div></form>@endcan
    @endif
</div>
</x-layout>
