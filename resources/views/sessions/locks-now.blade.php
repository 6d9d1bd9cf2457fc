@php use App\Platform\Support\MomentStyle; use App\Platform\Support\Sql; use Fulcrion\Core\Text\Quantity; @endphp
<h1>{{ $sentence }}</h1>
@if($cluster === null)
    <x-empty>Who waits for whom is read from live servers. <a href="{{ address('cluster.create') }}">Connect one</a>.</x-empty>
@elseif($locks === null)
    <div class="notice bad" role="alert">{{ $error }} This page tries again every three seconds. <a href="{{
        address('cluster.edit', $cluster->slug) }}">Check the connection</a>.</div>
@else
    <p class="quiet small">Read {{ moment($at * 1_000_000, MomentStyle::Clock) }}, again every three seconds. Literals are hidden. <a
        href="{{ address('running.show') }}?cluster={{ $cluster->slug }}">All that runs now</a>@can('run')@unless($canStop). No account
        is set that may stop sessions; <a href="{{ address('cluster.edit', $cluster->slug) }}">set one</a>@endunless @endcan</p>
    @foreach($locks->reading->gaps as $gap)<div class="notice" role="note">{{ $gap->problem }} Let the server keep it: <code>{{
        $gap->remedy }}</code></div>@endforeach
    @foreach($locks->chains as $chain)<section class="chain">@if(count($locks->chains) > 1)<h2>{{
        ucfirst($locks->holder($chain)) }}</h2>@endif
        <ul class="waits">@include('sessions.chain', ['chain' => $chain, 'longestUs' =>
            $locks::longestUs($chain)])</ul></section>@endforeach
@endif
@if($cluster !== null)
    <h2>Deadlocks</h2>
    @php $here = ['cluster' => $cluster->slug, 'window' => 'last 24 hours']; @endphp
    @if($deadlocks === [])<x-empty>None was seen in the last {{ $days }} days. They are taken down twice a minute; of several in between the
        server tells the last one only.</x-empty>
    @else
    <x-table name="Deadlocks"><thead><tr><th scope="col">Seen</th><th scope="col">Tables</th><th scope="col">Rolled back</th>
        <th scope="col">Went on</th></tr></thead><tbody>
    @foreach($deadlocks as $one)<tr data-row><td class="nowrap">{{ moment($one->seen_us, MomentStyle::Second) }}</td><td class="mono">{{
        implode(', ', $one->tables()) }}</td>@foreach([true, false] as $victim)<td>@foreach($one->sides as $side)@if($side['victim'] ===
        $victim)<p class="side"><span class="quiet small">{{ $side['user'] }}, session {{ $side['session'] }}, {{
        Quantity::count($side['rowLocks']) }} {{ Str::plural('row', $side['rowLocks']) }} locked{{ $side['index'] === '' ? ''
        : ", waited for {$side['mode']} by {$side['index']}" }}</span><br>@if($side['text'] !== '')<a class="mono"
        href="{{ address('statement.show', $side['statement']) }}?{{ http_build_query($here) }}">{{
        Sql::line($side['text'], 160) }}</a>@else<span class="quiet">the server did not tell its statement</span>@endif</p>@endif
        @endforeach</td>@endforeach</tr>@endforeach
    </tbody></x-table>
    @endif
@endif
