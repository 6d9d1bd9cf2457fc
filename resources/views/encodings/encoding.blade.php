@php
    use Fulcrion\Core\Text\Quantity;
    use App\Encodings\Application\LabPage;
@endphp
<x-layout title="{{ $run->object }} stored otherwise" bench="tune" sub="encodings">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('encoding.index') }}">Encodings</a> / {{ $run->cluster?->name ?? 'file' }} / run {{
        $run->id }}, {{
        moment($run->asked_us) }}</p>
    <h1>{{ $page?->sentence() ?? "A sample of {$run->object} is stored every way" }}</h1>
    @if($page === null)
        @if($run->isOver())<div class="notice bad" role="alert">{{
            $run->state === 'stopped' ? 'It was stopped by hand; nothing is kept of it.' : ($run->error
            ?? 'The worker was killed; start it again.') }} <a href="{{ address('encoding.index') }}?table={{ $run->cluster?->slug }}:{{
            $run->object }}">Start again</a></div>
        @else @include('encodings.encoding-progress')@endif
    @else
    <x-filters :to="address('encoding.show', $run->id)">
        <div><label for="lab-aim">Aim</label><select class="form-select" id="lab-aim" name="aim" data-submits>@foreach(LabPage::AIMS
            as $key => $label)<option value="{{ $key }}" @selected($page->aim === $key)>{{ $label }}</option>@endforeach</select></div>
        <div><label for="lab-gib">A GiB a month, {{ $page->currency() }}</label><input class="form-control" id="lab-gib"
            name="gib" inputmode="decimal" value="{{ $page->gibMonth }}"></div>
        <div><label for="lab-node">A node an hour</label><input class="form-control" id="lab-node" name="node" inputmode="decimal"
            value="{{ $page->nodeHour }}"></div>
        @if(! $page->isPriced())<p class="hint quiet">No price of {{ $run->cluster->name ?? 'a file' }} is written down. Type both, or <a
            href="{{ address('cost.prices') }}">keep them in the price book</a>.</p>@endif
        <div><label for="lab-order">Order</label><select class="form-select" id="lab-order" name="order" data-submits>
        <option value="">any</option>@foreach($page->lab->orders as $order => $by)<option value="{{
        $order }}" @selected($page->order === $order)>{{ $order }}{{ $by === [] ? '' : ': '.implode(', ',
        $by) }}</option>@endforeach</select></div>
        <div><label for="lab-compression">Compression</label><select class="form-select" id="lab-compression" name="compression"
            data-submits><option value="">any</option>@foreach(array_unique(array_map(fn ($v) => $v->compression,
            $page->variants)) as $compression)<option @selected($page->compression === $compression)>{{
            $compression }}</option>@endforeach</select></div>
    </x-filters>
    <p>{{ $page->price() }} Its size is told within {{ $run->fact('places') < 2 && count($page->lab->rows) < 2
        ? 'a bound one place cannot give' : '±'.Quantity::percent($page->chosen->uncertainty) }} from {{
        Quantity::count($page->lab->sampledRows()) }} rows in {{ count($page->lab->rows) }} chunks of {{ $run->fact('places') }} of {{
        $run->fact('ofPlaces') }} places.@if($run->fact('copies') > 1) The table is copied to every node; sizes are of all copies.@endif</p>
    @if($page->changesRows())<div class="notice" role="note">{{
        Quantity::count($page->single) }} executions a week change single rows of {{
        $run->object }}. Each rewrites a whole chunk: for a table that is changed so, whole rows (the squares) are the better way, and
        tighter packing makes every change dearer.</div>@endif
    <x-figure :figure="$page->figure()" name="Size against time to read" />
    @if($run->cluster !== null)@can('run')
    <form class="filters" method="post" action="{{ address('encoding.propose', $run->id) }}">@csrf
        <div><label for="lab-variant">Way to write it</label><select class="form-select" id="lab-variant"
            name="variant">@foreach(collect([$page->chosen])->merge($page->front)->unique(fn ($v) => $v->key()) as $v)@if($v->policy !==
            'rows')<option value="{{ $v->key() }}">{{ $v->label() }}: {{
            Quantity::bytes($page->size($v)) }}</option>@endif @endforeach</select></div>
        <div><label for="lab-older">Only what is older than, days</label><input class="form-control" id="lab-older" name="older"
            inputmode="numeric" placeholder="all of it"></div>
        <button class="btn btn-primary">Propose this change</button>
    </form>@endcan @endif
    <h2>Columns</h2>
    <x-table name="Columns"><thead><tr><th scope="col">Column</th>
    <th scope="col" class="n">Distinct in the sample</th><th scope="col" class="n">Mean run</th><th scope="col">Written as</th>
    <th scope="col" class="n">Bytes a row</th><th scope="col" class="n">of all</th><th scope="col" class="n">Plain</th>
    <th scope="col" class="n">Asked for by</th></tr></thead>
    <tbody>@foreach($page->columns() as $c)<tr data-row><td class="mono">{{ $c['name'] }}</td>
    <td class="n">{{ Quantity::count($c['distinct']) }}</td><td class="n">{{ Quantity::digits($c['run']) }}</td>
    <td>{{ $c['encoding'] }}</td><td class="n">{{ Quantity::digits($c['bytes']) }}</td>
    <td class="n">{{ Quantity::percent($c['share']) }}</td><td class="n">{{ Quantity::digits($c['plain']) }}</td>
    <td class="n">{{ $page->asked === [] ? Quantity::NONE : Quantity::percent($page->asked[$c['name']] ?? 0) }}</td>
    </tr>@endforeach</tbody></x-table>
    <p class="quiet small">Asked for by: share of the executions of the last 28 days that read the column. The mean run is of rows
        as they come.</p>
    @php $found = $page->shown(); $shown = request()->boolean('all') ? $found : array_slice($found, 0, 25); @endphp
    <h2>{{ count($shown) === count($page->variants) ? 'All' : count($shown).' of '.count($page->variants) }} ways, smallest first</h2>
    <x-table name="Ways"><thead><tr><th scope="col">Encodings</th>
    <th scope="col">Compression</th><th scope="col">Order</th><th scope="col" class="n">Whole table</th><th scope="col" class="n">±</th>
    <th scope="col" class="n">of plain rows</th><th scope="col" class="n">Saved</th><th scope="col" class="n">Write a row</th>
    <th scope="col" class="n">Read all</th><th scope="col" class="n">Read what is asked</th><th scope="col" class="n">A month</th></tr>
    </thead>
    <tbody>@foreach($shown as $v)<tr data-row @if($v->key() === $page->chosen->key()) class="chosen" @endif>
    <td>{{ $v->policy === 'rows' ? 'row by row'
    : $v->policy }}@if($v->key() === $page->chosen->key()) <strong>(chosen)</strong>@endif</td><td>{{ $v->compression }}</td>
    <td>{{ $v->order }}</td><td class="n">{{ Quantity::bytes($page->size($v)) }}</td>
    <td class="n">{{ Quantity::percent($v->uncertainty) }}</td>
    <td class="n">{{ Quantity::digits($page->plainRows->bytesPerRow / $v->bytesPerRow) }}×</td>
    <td class="n">{{ Quantity::percent(1 - $v->bytesPerRow / $page->plainRows->bytesPerRow) }}</td>
    <td class="n">{{ Quantity::count(round($v->writeNs)) }} ns</td><td class="n">{{ Quantity::count(round($v->readAllNs)) }} ns</td>
    <td class="n">{{ Quantity::count(round($v->readWorkNs)) }} ns</td><td class="n">{{ $run->cluster === null || ! $page->isPriced()
    ? Quantity::NONE : $page->money($page->month($v)) }}</td></tr>@endforeach</tbody></x-table>
    @if(count($shown) < count($found))<p><a href="{{ request()->fullUrlWithQuery(['all' => 1]) }}">Show all {{
        count($found) }}</a></p>@endif
    <p class="quiet small">Times a row were measured here, in PHP. A month is space at its price, and the node time that reading takes
        now (modelled): for bytes, by how many there would be; for rows, by how much longer this way takes to unpack than what suits the
        values. {{ App\Encodings\Application\LabRunner::further() === []
        ? 'This PHP offers neither bzip2 nor zstd nor lz4, so they were not tried.' : 'Row by row, also '.implode(', ',
        array_keys(App\Encodings\Application\LabRunner::further())).' were tried.' }}</p>
    @endif
</div>
</x-layout>
