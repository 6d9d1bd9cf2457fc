@php use App\Platform\Support\MomentStyle; use Fulcrion\Core\Text\Quantity; @endphp
<x-layout title="Storage" bench="tend" sub="storage">
<div class="reading">
    @if($cluster !== null)
    <x-filters :to="address('capacity.show')">
    <div><label for="storage-cluster">Cluster</label><select class="form-select" id="storage-cluster" name="cluster">
        @foreach($clusters as $each)<option value="{{ $each->slug }}" @selected($each->id === $cluster->id)>{{
            $each->name }}</option>@endforeach</select></div>
    @if(count($page['places']) > 1)<div><label for="storage-place">File system</label><select class="form-select" id="storage-place"
        name="place">@foreach($page['places'] as $each)<option value="{{ $each->name }}" @selected($each === $page['shown'])>{{
            $each->title($cluster->name) }}</option>@endforeach</select></div>@endif
    <div><label for="storage-window">Failures in, {{ $zone->getName() }}</label><input class="form-control" id="storage-window"
        name="window" value="{{ $text }}" list="windows"><datalist id="windows"><option>last 24 hours</option><option>last 7 days</option>
        <option>last 28 days</option></datalist></div>
    </x-filters>
    @endif
    <h1>{{ $page['sentence'] ?? 'No cluster is watched yet' }}</h1>
    @if($complaint !== null)<div class="notice bad" role="alert">{{ $complaint }} The last 28 days are shown instead.</div>@endif
    @if($cluster?->connector === 'practice')<p><span class="scale">modelled</span> <span class="quiet small">What a practice cluster
        stores counts as much as it would on the modelled cluster.</span></p>@endif
    @if($page === null || $page['shown'] === null)<x-empty>How full a cluster is comes from its hosts, every hour, or from the cluster
        itself. @if($cluster !== null)<a href="{{ address('source.index') }}">Read a host</a>.@endif</x-empty>
    @else
    <x-figure :figure="$page['figure']" name="Space used and expected" />
    <div class="tools">@if($page['shown']->name === '')<a href="{{ address('alert.create') }}?{{ http_build_query(['cluster' =>
        $cluster->slug, 'signal' => 'capacity:share']) }}">Set an alert on it</a>@endif
        @if($page['shown']->resized() !== null)<span class="quiet">Its size was another one before {{
        moment($page['shown']->resized()->at * 1_000_000, MomentStyle::Minute, $zone) }}.</span>@endif</div>
    @if($page['spare'] !== [])<h2>What could be given back</h2>
    <x-table name="What could be given back"><thead><tr><th scope="col">Finding</th><th scope="col">Table</th>
        <th scope="col" class="n">Gives back</th><th scope="col">What would be done</th></tr></thead><tbody>
        @foreach($page['spare'] as $one)<tr data-row><td><a href="{{ address('finding.show', $one->id) }}">{{ $one->problem }}</a></td>
        <td class="mono">{{ $one->object }}</td><td class="n">{{ Quantity::bytes($one->spare_bytes) }}</td><td>{{ $one->remedy === ''
        ? 'a person decides' : 'a change: '.$one->remedy }}</td></tr>@endforeach</tbody></x-table>@endif
    @if($page['grown'] !== [])<h2>What grew in the last 28 days</h2>
    <x-table name="What grew"><thead><tr><th scope="col">What</th><th scope="col" class="n">Grew by</th></tr></thead><tbody>
        @foreach($page['grown'] as $part)<tr data-row><td class="mono">{{ $part->name() }}</td><td class="n">{{
        Quantity::bytes($part->bytes) }}</td></tr>@endforeach</tbody></x-table>@endif
    @if($page['shown']->steps !== [])<h2>Steps</h2>
    <x-table name="Steps"><thead><tr><th scope="col">When</th><th scope="col" class="n">Came or went</th><th scope="col">What became
        larger or smaller most that day</th></tr></thead><tbody>@foreach(array_reverse($page['shown']->steps) as $step)<tr data-row>
        <td class="nowrap">{{ moment($step->at * 1_000_000, MomentStyle::Minute, $zone) }}</td><td class="n">{{ $step->bytes > 0 ? '+'
        : '−' }}{{ Quantity::bytes(abs($step->bytes)) }}</td><td class="mono">{{ isset($page['causes'][$step->at])
        ? $page['causes'][$step->at]->name() : 'not known' }}</td></tr>@endforeach</tbody></x-table>@endif
    @if(count($page['places']) > 1)<h2>File systems</h2>
    <x-table name="File systems"><thead><tr><th scope="col">File system</th><th scope="col" class="n">Used</th><th scope="col"
        class="n">Of</th><th scope="col" class="n">Share</th><th scope="col" class="n">A week</th><th scope="col">Full</th></tr></thead>
        <tbody>@foreach($page['places'] as $each)<tr data-row><td><a href="{{ address('capacity.show') }}?{{ http_build_query(['cluster' =>
        $cluster->slug, 'place' => $each->name]) }}">{{ $each->title($cluster->name) }}</a></td><td class="n">{{
        Quantity::bytes($each->last()->usedBytes) }}</td><td class="n">{{ Quantity::bytes($each->last()->limitBytes) }}</td><td class="n">{{
        Quantity::percent($each->share()) }}</td><td class="n">{{ $each->growth() }}</td><td>{{ $each->whenFull() }}</td></tr>@endforeach
        </tbody></x-table>@endif
    @endif
    @if($page !== null)<h2>Answered, {{ $text }}</h2>
    @if($page['availability'] === null)<p>Whenever somebody asked, somebody was answered: no time was found in which all statements or
        probes failed.</p>
    @else<x-figure :figure="$page['availability']" name="Time without an answer by day" />
    <x-table name="Times without an answer"><thead><tr><th scope="col">Between</th><th scope="col">and</th><th scope="col"
        class="n">For about</th><th scope="col" class="n">Statements failed</th><th scope="col" class="n">Probes failed</th><th
        scope="col">More</th></tr></thead><tbody>@foreach($page['outages'] as $one)<tr data-row>
        <td class="nowrap">{{ moment($one->from * 1_000_000, MomentStyle::Minute, $zone) }}</td>
        <td class="nowrap">{{ moment($one->to * 1_000_000, MomentStyle::Minute, $zone) }}</td>
        <td class="n">{{ Quantity::duration($one->seconds * 1e6) }}</td><td class="n">{{ Quantity::count($one->failed) }}</td>
        <td class="n">{{ $one->probes }}</td><td><a href="{{ address('moment.show') }}?{{ http_build_query(['cluster' => $cluster->slug,
        'at' =>
        moment(($one->from + 300) * 1_000_000, MomentStyle::Written, $zone)]) }}">What happened then</a></td></tr>
        @endforeach</tbody></x-table>@endif
    @if($page['silences'] !== [])<h3>Not known</h3>
    <x-table name="Times in which hosts were not read"><thead><tr><th scope="col">From</th><th scope="col">to</th><th scope="col"
        class="n">For</th><th scope="col">Hosts that were not read</th></tr></thead><tbody>@foreach($page['silences'] as [$hosts, $from,
        $to])<tr data-row><td class="nowrap">{{ moment($from * 1_000_000, MomentStyle::Minute, $zone) }}</td><td class="nowrap">{{
        moment($to * 1_000_000, MomentStyle::Minute, $zone) }}</td><td class="n">{{ Quantity::duration(($to - $from) * 1e6) }}</td>
        <td>{{ count($hosts) > 4 ? count($hosts).' hosts' : implode(', ', $hosts) }}</td></tr>@endforeach</tbody></x-table>@endif
    <p class="quiet small">@if($page['requests']['requests'] === null && $page['requests']['errors'] === null)The store of this cluster does
        not count its requests and errors; they appear here where a scraped metric does.@else The store counted {{
        Quantity::count($page['requests']['requests'] ?? 0) }} requests and {{ Quantity::count($page['requests']['errors'] ?? 0) }}
        errors in this window.@endif</p>@endif
</div>
</x-layout>
