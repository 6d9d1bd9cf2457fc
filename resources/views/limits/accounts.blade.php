@php use App\Estate\Connectors\ServerAccount; use Fulcrion\Core\Text\Quantity;
    $limited = array_sum(array_map(fn ($server) => count(array_filter($server['accounts'], fn (ServerAccount $one) =>
        $one->statementSeconds !== null || $one->queriesPerHour !== null)), $servers));
    $all = array_sum(array_map(fn ($server) => count($server['accounts']), $servers)); @endphp
<x-layout title="Limits of accounts" bench="meter" sub="limit">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('limit.index') }}">Limits</a></p>
    <h1>{{ $servers === [] ? 'No live server is connected' : ($all === 0 ? 'There is no account that could be limited from here'
        : "{$limited} of {$all} accounts of live servers are limited") }}</h1>
    <p class="quiet">What a live server can do on its own: end statements of an account that take too long, and refuse its queries beyond a
        number an hour. Each limit is a change: rehearsed with a test user, approved, applied, proved, undone.</p>
    @foreach($servers as $server)
    <h2>{{ $server['cluster']->name }}</h2>
    @if(! $server['able'])<p class="quiet">This server was connected to be watched only: there is no account that may change others.</p>
    @elseif($server['trouble'])<div class="notice bad" role="alert">{{ $server['trouble'] }}</div>
    @elseif($server['accounts'] === [])<p class="quiet">It has no accounts but its own and those of this application.</p>
    @else
    <x-table :name="'Accounts of '.$server['cluster']->name" class="narrow"><thead><tr><th scope="col">Account</th><th scope="col">From</th>
        <th scope="col" class="n">A statement at most</th><th scope="col" class="n">Queries an hour</th></tr></thead>
    <tbody>@foreach($server['accounts'] as $one)<tr data-row><td class="mono">{{ $one->name }}</td><td class="mono">{{ $one->host }}</td>
        <td class="n">{{ $one->statementSeconds === null ? 'any' : Quantity::duration($one->statementSeconds * 1e6) }}</td>
        <td class="n">{{ $one->queriesPerHour === null ? 'any' : Quantity::count($one->queriesPerHour) }}</td></tr>@endforeach</tbody>
    </x-table>
    @can('limit')<form class="form-grid" method="post" action="{{ address('limit.account', $server['cluster']->slug) }}">@csrf
        <label for="a-account-{{ $server['cluster']->slug }}">Account</label><select class="form-select" name="account"
        id="a-account-{{ $server['cluster']->slug }}">@foreach(array_unique(array_column($server['accounts'], 'name')) as $one)<option
        @selected(old('account') === $one)>{{ $one }}</option>@endforeach</select>
        @error('account')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="a-time-{{ $server['cluster']->slug }}">A statement at most</label><input class="form-control" name="time" maxlength="40"
        id="a-time-{{ $server['cluster']->slug }}" placeholder="any time" value="{{ old('time') }}">
        @error('time')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="a-queries-{{ $server['cluster']->slug }}">Queries an hour</label><input class="form-control" name="queries"
        id="a-queries-{{ $server['cluster']->slug }}" inputmode="numeric" placeholder="any number" value="{{ old('queries') }}">
        @error('queries')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <span></span><div><button class="btn btn-primary">Propose it</button></div></form>@endcan
    @endif
    @endforeach
    @if($changes->isNotEmpty())<h2>Limited before</h2><ul class="choose">@foreach($changes as $change)<li data-row><a
        href="{{ address('change.show', $change->id) }}">{{ $change->title }}</a> <x-state :is="$change->mark()">{{
        $change->state->value }}</x-state></li>@endforeach</ul>@endif
</div>
</x-layout>
