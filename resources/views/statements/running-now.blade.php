@php use App\Platform\Support\MomentStyle; use Fulcrion\Core\Text\Quantity; @endphp
<h1>{{ $sentence }}</h1>
@if($cluster === null)
    <x-empty>What runs now is read from live servers. <a href="{{ address('cluster.create') }}">Connect one</a>.</x-empty>
@elseif($error !== null)
    <div class="notice bad" role="alert">{{ $error }} This page tries again every two seconds. <a href="{{
        address('cluster.edit', $cluster->slug) }}">Check the connection</a>.</div>
@else
    <p class="quiet small">Oldest first, read {{ moment($at * 1_000_000, MomentStyle::Clock)
        }}, again every two seconds. Literals are hidden. Our own reading session is left out. <a
        href="{{ address('locks.show') }}?cluster={{ $cluster->slug }}">Who waits for whom</a></p>
    @if($rows !== [])
    <x-table name="Running statements" :export="false">
        <thead><tr><th scope="col" class="n">Running for</th><th scope="col">Statement</th><th scope="col">User</th>
        <th scope="col">From</th><th scope="col">Database</th><th scope="col">State</th><th scope="col" class="n">Session</th>
        @can('run')<th scope="col"><span class="visually-hidden">Acts</span></th>@endcan</tr></thead>
        <tbody>
        @foreach($rows as [$running, $statement])
            <tr data-row><td class="n">{{ Quantity::duration($running->runningUs) }}</td>
            <td class="statement">@if(isset($known[$statement->id]))<a href="{{ address('statement.show', $statement->id) }}?{{
            http_build_query(['cluster' => $cluster->slug, 'window' => 'last 24 hours']) }}">{{
            App\Platform\Support\Sql::line($statement->text, 220) }}</a>@else<span class="mono"
            title="Not counted yet: it has not ended before.">{{ App\Platform\Support\Sql::line($statement->text,
            220) }}</span>@endif</td><td>{{ $running->user }}</td><td>{{ $running->clientHost }}</td>
            <td>{{ $running->database ?: '(none)' }}</td><td>{{ $running->state ?: '(none)' }}</td>
            <td class="n">{{ $running->session }}</td>@can('run')<td>@if($cluster->ender_username !== null)@include('sessions.stop', [
            'id' => $running->session, 'act' => 'cancel', 'statement' => $statement->id])@endif</td>@endcan</tr>
        @endforeach
        </tbody>
    </x-table>
    @endif
@endif
