@php use Fulcrion\Core\Text\Quantity; @endphp
<x-layout title="Hosts" bench="tend" sub="hosts">
<div class="reading">
    @if($page !== null)
    <x-filters :to="address('host.show')">
    <div><label for="host-cluster">Cluster</label><select class="form-select" id="host-cluster" name="cluster">
        @foreach($clusters as $each)<option value="{{ $each->slug }}" @selected($each->id === $cluster->id)>{{
            $each->name }}</option>@endforeach</select></div>
    <div><label for="host-host">Host</label><select class="form-select" id="host-host" name="host">@foreach($hosts as $each)<option
        @selected($each === $page->host)>{{ $each }}</option>@endforeach</select></div>
    <div><label for="host-window">Window, {{ $zone->getName() }}</label><input class="form-control" id="host-window" name="window"
        value="{{ $text }}" list="windows"><datalist id="windows"><option>last hour</option><option>last 3 hours</option>
        <option>last 24 hours</option><option>today</option><option>yesterday</option><option>last 7 days</option></datalist></div>
    </x-filters>
    @endif
    <h1>{{ $page !== null && $page->charts === [] && $others[0] !== [] ? "{$page->host} tells of ".count($others[0]).' series'
        : $page->sentence ?? 'No host is read yet' }}</h1>
    @if($page !== null)<p><a href="{{ address('host.beside') }}?{{ http_build_query(['cluster' => $cluster->slug,
        'window' => $text]) }}">Beside
        its neighbours</a> · <a href="{{ address('host.live') }}?{{ http_build_query(['cluster' => $cluster->slug, 'host' =>
        $page->host]) }}">At this moment</a></p>@endif
    @if($complaint !== null)<div class="notice bad" role="alert">{{ $complaint }} The last hour is shown instead.</div>@endif
    @if($page === null)<x-empty>The host this application runs on is read every ten seconds, from /proc, as soon as its own store is
        among the clusters.</x-empty>
    @elseif($page->charts === [] && $others[0] === [])<x-empty>No reading lies in this window.</x-empty>@endif
    @if($page !== null)
    @include('health.charts', ['charts' => $page->charts])
    @if($others[0] !== [])<h2>What else is told of it</h2>
    <x-table name="Other metrics"><thead><tr><th scope="col">Metric</th><th scope="col">Labels</th><th scope="col">Unit</th>
        <th scope="col" class="n">Last</th><th scope="col" class="n">Lowest</th><th scope="col" class="n">Highest</th>
        <th scope="col" class="n">Readings</th></tr></thead><tbody>@foreach($others[0] as [$series, $was])<tr data-row>
        <td class="mono">{{ $series->name }}@if($series->isCounter) <span class="quiet">counter</span>@endif</td>
        <td class="small">@foreach($series->labels as $label => $value){{ $label }} {{ $value }}@if(! $loop->last), @endif @endforeach</td>
        <td>{{ $series->unit === '1' ? '' : $series->unit }}</td><td class="n">{{ Quantity::digits($was->last) }}</td>
        <td class="n">{{ Quantity::digits($was->low) }}</td><td class="n">{{ Quantity::digits($was->high) }}</td>
        <td class="n">{{ $was->count }}</td></tr>@endforeach</tbody></x-table>
    @if($others[1] > count($others[0]))<p class="quiet small">{{ count($others[0]) }} of {{ Quantity::count($others[1]) }} series.</p>@endif
    @endif
    <p class="quiet small">{{ $page->step < 60 ? "Intervals of {$page->step} s." : 'Intervals of '.
        Quantity::duration($page->step * 1e6).'.' }} {{
        $cluster->connector === 'practice' ? 'Modelled from the executions that were in flight'
        : 'Read on the host, each value by the name OpenTelemetry has for it' }}. Kept for {{ $cluster->retention_days }} days. Where
        nothing was read the figures are shaded and show nothing.</p>
    @endif
</div>
</x-layout>
