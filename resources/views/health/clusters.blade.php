@php use App\Health\Charts\NodesFigure; use App\Platform\Support\MomentStyle; use Fulcrion\Core\Text\Quantity; @endphp
<div id="clusters-now">
<x-filters :to="address('cluster.index')" part="clusters-now" hx-get="{{ address('cluster.lines') }}" hx-select="#clusters-now">
    <div><label for="clusters-at">As it was, {{ $zone->getName() }}</label><input class="form-control" id="clusters-at" name="at" value="{{
        $text }}" placeholder="now" list="moments"><datalist id="moments"><option>now</option><option>monday 08:00</option>
        <option>yesterday 11:00</option></datalist></div>
</x-filters>
@if($complaint !== null)<div class="notice bad" role="alert">{{ $complaint }} This moment is shown instead.</div>@endif
<x-table name="Clusters at a moment" class="cluster-lines" :sorts="false"><thead><tr><th scope="col">Cluster</th><th scope="col">Nodes</th>
    <th scope="col">State</th><th scope="col" class="n">At work</th><th scope="col" class="n">Waiting</th>
    <th scope="col" class="n">Probe</th><th scope="col" class="n">Full</th><th scope="col" class="n">Last backup</th>
    <th scope="col" class="n">Ringing</th>
    <th scope="col" class="n">Findings</th></tr></thead><tbody>
    @foreach($lines as $line)<tr data-row>
    <td class="nowrap"><a href="{{ address('cluster.time') }}?{{ http_build_query(['cluster' => $line->cluster->slug]) }}">{{
        $line->cluster->name }}</a></td>
    <td>@if($line->nodes === [])<span class="quiet small">none is read</span>@else<a href="{{ address('host.beside') }}?{{
        http_build_query(['cluster' => $line->cluster->slug]) }}">{!! NodesFigure::draw($line) !!}</a>@endif</td>
    <td><x-state :is="$line->mark()">{{ $line->word() }}</x-state></td>
    <td class="n">{{ $line->inFlight === null ? Quantity::NONE : Quantity::digits($line->inFlight) }}</td>
    <td class="n">{{ $line->inFlight === null ? Quantity::NONE : Quantity::digits($line->waiting) }}</td>
    <td class="n">@if($line->probe === null){{ Quantity::NONE }}@else<a href="{{ address('system.show') }}?{{ http_build_query(['cluster' =>
        $line->cluster->slug, 'at' => $text]) }}">× {{ Quantity::digits($line->probe) }}</a>@endif</td>
    <td class="n">{{ $line->fullness === null ? Quantity::NONE : Quantity::percent($line->fullness) }}</td>
    <td class="n">@if($line->backupSeconds === null){{ Quantity::NONE }}@else<a href="{{ address('backup.show') }}?{{ http_build_query([
        'cluster' => $line->cluster->slug]) }}">{{ Quantity::duration($line->backupSeconds * 1e6) }} ago</a>@if($line->backupOf !== '')<br>
        <span class="quiet small mono">{{ $line->backupOf }}</span>@endif @endif</td>
    <td class="n"><a href="{{ address('alert.index') }}">{{ $line->ringing }}</a></td>
    <td class="n"><a href="{{ address('finding.index') }}?cluster={{ $line->cluster->slug }}">{{ $line->findings }}</a></td></tr>@endforeach
</tbody></x-table>
<p class="quiet small">{{ moment($at * 1_000_000, MomentStyle::Minute, $zone) }}, from the quarter of an hour before. Each upright mark is a
    node, filled by what of its processors is at work and notched at what of the time its disk is; one that leans is slower than its
    neighbours. Lozenges wait. Probe: times as long as when idle. Last backup: the newest good one of the schema where it is oldest.
    Nodes of practice clusters are modelled.</p>
</div>
