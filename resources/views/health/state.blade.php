@php
    use App\Health\Application\ServerEvents; use App\Platform\Support\MomentStyle; use App\Platform\Support\Sql;
    use Fulcrion\Core\Text\Quantity;
@endphp
<x-layout title="State of servers" bench="tend" sub="state">
<div class="reading">
    @if($cluster !== null)
    <x-filters :to="address('state.show')">
    <div><label for="state-cluster">Server</label><select class="form-select" id="state-cluster" name="cluster">@foreach($live as $each)
        <option value="{{ $each->slug }}" @selected($each->id === $cluster->id)>{{ $each->name }}</option>@endforeach</select></div>
    <div><label for="state-window">Window, {{ $zone->getName() }}</label><input class="form-control" id="state-window" name="window"
        value="{{ $text }}" list="windows"><datalist id="windows"><option>last hour</option><option>last 3 hours</option>
        <option>last 24 hours</option><option>today</option><option>yesterday</option><option>last 7 days</option></datalist></div>
    </x-filters>
    @endif
    <h1>{{ $page?->sentence() ?? 'No live server is connected' }}</h1>
    @if($complaint !== null)<div class="notice bad" role="alert">{{ $complaint }} The last hour is shown instead.</div>@endif
    @if($cluster === null)<x-empty>How servers are over time is read from live ones. <a href="{{
        address('cluster.create') }}">Connect one</a>.</x-empty>
    @elseif(! $page->hasReadings())<x-empty>No reading lies in this window. Readings are kept for
        {{ $cluster->retention_days }} days{{ $cluster->failing_since === null ? '.' : '; the server cannot be read at present: '.
        $cluster->last_error }}</x-empty>@endif
    @if($page !== null)
    @include('health.charts', ['charts' => $page->charts])
    @if($page->locks !== [])
    <h2>Waiting for row locks, by statement</h2>
    <x-table name="Row lock time by statement"><thead><tr><th scope="col">Statement</th><th scope="col" class="n">Waited</th>
        <th scope="col" class="n">Share</th></tr></thead>
        <tbody>@php $sum = array_sum(array_map(fn ($row) => (float) $row->waited_us, $page->locks)); @endphp
        @foreach($page->locks as $row)<tr data-row><td class="statement">@if($row->fingerprint === '')<span class="quiet">not seen: shorter
            than the time between two readings</span>@else<a href="{{ address('statement.show', $row->fingerprint) }}?{{
            http_build_query(['cluster' => $cluster->slug, 'window' => 'last 24 hours']) }}">{{
            Sql::line($row->text ?? 'a statement that has not ended yet', 200) }}</a>@endif</td>
            <td class="n">{{ Quantity::duration((float) $row->waited_us) }}</td>
            <td class="n">{{ Quantity::percent($sum > 0 ? $row->waited_us / $sum : 0) }}</td></tr>@endforeach</tbody></x-table>
    <p class="quiet small">The total is the server's own. It goes to statements by who was seen waiting at each reading (sampled), every {{
        $cluster->interval_seconds }} s.</p>
    @endif
    <h2>Started and set</h2>
    @if($page->events === [])<x-empty>The server was not started again in this window, and no variable was set otherwise.</x-empty>
    @else<x-table name="Events"><thead><tr><th scope="col">When</th><th scope="col">What</th><th scope="col">Before</th>
        <th scope="col">After</th></tr></thead>
        <tbody>@foreach($page->events as $event)<tr data-row><td class="nowrap">{{ moment((int) $event->at_us, MomentStyle::Second,
            $zone) }}</td>@if($event->kind === ServerEvents::RESTART)<td>started</td><td class="nowrap">read last {{
            moment((int) $event->before, MomentStyle::Second, $zone) }}</td><td></td>@else<td class="mono">{{ $event->name }}</td>
            <td class="mono">{{ $event->before ?? 'not there' }}</td><td class="mono">{{ $event->after ?? 'not there' }}</td>@endif</tr>
        @endforeach</tbody></x-table>
    @endif
    <p class="quiet small">{{ $page->step < 60 ? "Intervals of {$page->step} s." : 'Intervals of '.
        Quantity::duration($page->step * 1e6).'.' }} Where nothing was read the figures are shaded and show nothing.</p>
    @endif
</div>
</x-layout>
