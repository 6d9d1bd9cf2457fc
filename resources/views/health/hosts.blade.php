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
    <h1>{{ $page->sentence ?? 'No host is read yet' }}</h1>
    @if($page !== null)<p><a href="{{ address('host.beside') }}?{{ http_build_query(['cluster' => $cluster->slug,
        'window' => $text]) }}">Beside its neighbours</a></p>@endif
    @if($complaint !== null)<div class="notice bad" role="alert">{{ $complaint }} The last hour is shown instead.</div>@endif
    @if($page === null)<x-empty>The host this application runs on is read every ten seconds, from /proc, as soon as its own store is
        among the clusters.</x-empty>
    @elseif($page->charts === [])<x-empty>No reading lies in this window.</x-empty>@endif
    @if($page !== null)
    @include('health.charts', ['charts' => $page->charts])
    <p class="quiet small">{{ $page->step < 60 ? "Intervals of {$page->step} s." : 'Intervals of '.
        Quantity::duration($page->step * 1e6).'.' }} {{
        $cluster->connector === 'practice' ? 'Modelled from the executions that were in flight'
        : 'Read on the host, each value by the name OpenTelemetry has for it' }}. Kept for {{ $cluster->retention_days }} days. Where
        nothing was read the figures are shaded and show nothing.</p>
    @endif
</div>
</x-layout>
