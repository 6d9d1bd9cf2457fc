@php use App\Platform\Support\MomentStyle; use App\Platform\Support\Sql; use Fulcrion\Core\Text\Quantity; @endphp
<x-layout title="Over time" bench="tend" sub="time">
<div class="reading">
    @if($cluster !== null)
    <x-filters :to="address('cluster.time')">
    <div><label for="time-cluster">Cluster</label><select class="form-select" id="time-cluster" name="cluster">
        @foreach($clusters as $each)<option value="{{ $each->slug }}" @selected($each->id === $cluster->id)>{{
            $each->name }}</option>@endforeach</select></div>
    <div><label for="time-window">Window, {{ $zone->getName() }}</label><input class="form-control" id="time-window" name="window"
        value="{{ $text }}" list="windows"><datalist id="windows"><option>last 24 hours</option><option>yesterday</option>
        <option>monday 06:00-10:00</option><option>last 7 days</option><option>last 28 days</option></datalist></div>
    <div><label for="time-at">In flight at</label><input class="form-control" id="time-at" name="at" value="{{ $typed }}"
        placeholder="when there was most"></div>
    </x-filters>
    @endif
    <h1>{{ $page->sentence ?? 'No cluster is connected' }}</h1>
    @if($complaint !== null)<div class="notice bad" role="alert">{{ $complaint }} The usual is shown instead.</div>@endif
    @if($page !== null)
    @if($page->charts === [])<x-empty>Nothing is known of this window.</x-empty>@endif
    <div class="over"><div>@include('health.charts', ['charts' => $page->charts])</div>
    @if($page->at !== null)<aside aria-labelledby="in-flight-title"><h2 id="in-flight-title">In flight {{
        moment($page->at * 1_000_000, MomentStyle::Minute, $zone) }}@if($page->seconds > 60){{ $page->seconds < 86_400
        ? '–'.moment(($page->at + $page->seconds) * 1_000_000, MomentStyle::Time, $zone) : ', for a day' }}@endif</h2>
    @if($executions === [])<p class="quiet">No execution that is kept one by one was in flight then.</p>
    @else<ol class="in-flight">@foreach($executions as $one)<li><a class="statement" href="{{ address('system.show') }}?{{
        http_build_query(['cluster' => $cluster->slug, 'at' => moment($one->startedUs, MomentStyle::Written, $zone),
        'statement' => $one->fingerprint]) }}">{{ Sql::line($one->text, 120) }}</a><p>{{ $one->user }} · since {{
        moment($one->startedUs, MomentStyle::Clock, $zone) }},
        took {{ Quantity::duration((float) $one->durationUs) }}@if($one->waitedUs > 0), of which {{
        Quantity::duration((float) $one->waitedUs) }} waiting @endif · read {{ Quantity::bytes($one->bytesRead) }}</p></li>@endforeach</ol>
    @if($more > 0)<p class="quiet small">And {{ $more }} that {{ $more === 1 ? 'was' : 'were' }} shorter.</p>@endif
    @endif
    <p><a href="{{ address('moment.show') }}?{{ http_build_query(['cluster' => $cluster->slug, 'at' => moment($moment * 1_000_000,
        MomentStyle::Written, $zone)]) }}">All that is known of {{ moment($moment * 1_000_000, MomentStyle::Time, $zone) }}</a></p>
    <p class="quiet small">Choose an interval of a chart to see what was in flight then; draw over several to set the window.</p></aside>
    @endif</div>
    <h2>What moved with it</h2>
    @if($page->moved === [])<p class="quiet">Nothing that is measured of its nodes moved with what was in flight.</p>
    @else<x-table name="What moved with it"><thead><tr><th scope="col">Measure</th><th scope="col">Of</th>
        <th scope="col" class="n">Rank correlation</th><th scope="col">Comes</th>
        <th scope="col" class="n">Intervals</th></tr></thead><tbody>
        @foreach($page->moved as [$lane, $host, $how])<tr data-row><td>{{ $lane }}</td><td>{{ $host }}</td>
        <td class="n">{{ sprintf('%+.2f', $how->r) }}</td><td>{{ match (true) {
            $how->lag === 0 => 'at the same time',
            default => Quantity::duration(abs($how->lag) * $page->step * 1e6).($how->lag > 0 ? ' later' : ' before'),
        } }}</td><td class="n">{{ $how->pairs }}</td></tr>@endforeach</tbody></x-table>
    <p class="quiet small">How well each tells what was in flight, by Spearman's rank correlation, where it may come up to three intervals
        before or after. What moves together need not be cause and effect.</p>@endif
    <p class="quiet small">{{ 'Intervals of '.Quantity::duration($page->step * 1e6) }}.@if($cluster->connector === 'practice')
        <span class="scale">modelled</span> What nodes of a practice cluster do is computed from the executions that were in
        flight.@endif</p>
    @endif
</div>
</x-layout>
