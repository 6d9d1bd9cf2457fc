@php
    use App\Metrics\Signals\HostMeasure; use App\Platform\Support\MomentStyle; use Fulcrion\Core\Text\Quantity;
@endphp
<x-layout title="Hosts side by side" bench="tend" sub="beside">
<div class="reading">
    @if($cluster !== null)
    <x-filters :to="address('host.beside')">
    <div><label for="beside-cluster">Cluster</label><select class="form-select" id="beside-cluster" name="cluster">
        @foreach($clusters as $each)<option value="{{ $each->slug }}" @selected($each->id === $cluster->id)>{{
            $each->name }}</option>@endforeach</select></div>
    <div><label for="beside-measure">Measure</label><select class="form-select" id="beside-measure" name="measure">
        @foreach(HostMeasure::cases() as $each)<option value="{{ $each->value }}" @selected($each === $measure)>{{
            $each->label() }}</option>@endforeach</select></div>
    <div><label for="beside-window">Window, {{ $zone->getName() }}</label><input class="form-control" id="beside-window" name="window"
        value="{{ $text }}" list="windows"><datalist id="windows"><option>last 24 hours</option><option>yesterday</option>
        <option>last 7 days</option><option>last 14 days</option><option>last 28 days</option></datalist></div>
    </x-filters>
    @endif
    <h1>{{ $page->sentence ?? 'No host is read yet' }}</h1>
    @if($cluster?->connector === 'practice')<p><span class="scale">modelled</span> <span class="quiet small">What nodes of a
        practice cluster do is computed from the executions that were in flight.</span></p>@endif
    @if($complaint !== null)<div class="notice bad" role="alert">{{ $complaint }} The last 7 days are shown instead.</div>@endif
    @if($page === null)<x-empty>Hosts appear here as soon as they are read.</x-empty>
    @elseif($page->figure === null)<x-empty>A host is held against the middle of at least three others that did enough in the same
        intervals to tell. <a href="{{ address('host.show') }}">Look at one host</a>.</x-empty>
    @else
    <x-figure :figure="$page->figure" :name="$measure->label()" />
    @if($measure->signal() !== null)<p><a href="{{ address('alert.create') }}?{{ http_build_query(['cluster' => $cluster->slug,
        'signal' => $measure->signal()]) }}">Set an alert on it</a></p>@endif
    @if($page->slow !== [])
    <h2>Slower than their neighbours</h2>
    <x-table name="Slow hosts"><thead><tr><th scope="col">Host</th><th scope="col" class="n">Disk time for the same bytes</th>
        <th scope="col">Since</th><th scope="col" class="n">Score</th><th scope="col">More</th></tr></thead>
        <tbody>@foreach($page->slow as [$one, $since])<tr data-row><td>{{ $one->host }}</td>
            <td class="n">× {{ Quantity::digits($one->factor) }}</td>
            <td class="nowrap">{{ $since === null ? 'before the last 28 days' : moment($since * 1_000_000, MomentStyle::Minute,
                $zone) }}</td>
            <td class="n">{{ Quantity::digits($one->score) }}</td>
            <td><a href="{{ address('host.show') }}?{{ http_build_query(['cluster' => $cluster->slug, 'host' => $one->host,
                'window' => 'last 14 days']) }}">What it did</a></td></tr>@endforeach</tbody></x-table>
    <p class="quiet small">A host is named where the days since it changed, or its last day, lie more than 5 units from the middle of the
        other hosts, where a unit is how far these differ from each other (median absolute deviation), at least 2.5%, and the difference is
        more than a fifth after a change or a third without one. In a simulation of 1,000 clusters, half of them with a host 1.3 to 2 times
        slower, all of those from 1.5 times on were named and in fewer than 1 in 100 clusters anybody else.</p>
    @endif
    @endif
</div>
</x-layout>
