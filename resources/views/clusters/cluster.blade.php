@php use App\Platform\Support\MomentStyle; use Fulcrion\Core\Text\Quantity; @endphp
<x-layout title="{{ $cluster->name }}" bench="tend">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('cluster.index') }}">Clusters</a> / {{ $cluster->name }}</p>
    <h1>{{ $cluster->name }} @if($cluster->failing_since) cannot be read since {{
        moment($cluster->failing_since) }} @elseif($cluster->isLive()
        && $cluster->polled_at) was read last at {{ moment($cluster->polled_at, MomentStyle::Clock)
        }} @elseif($cluster->isLive()) was not read yet @else takes files and HTTP @endif</h1>
    @if($cluster->last_error)<div class="notice bad" role="alert">{{
        $cluster->last_error }} What was counted up to the last reading is kept; reading goes on by itself as soon as the server
        answers.</div>@endif
    @if($cluster->isLive())
        <h2 id="check">Connection</h2>
        @if($problems !== null)
            @if($problems === [])<p><x-state is="calm">all well</x-state> The account can read what it needs.</p>
            @else<ul class="annotated">@foreach($problems as $problem)<li><x-state is="act">missing</x-state><div>
            <p>{{ $problem['problem'] }}</p><code>{{ $problem['remedy'] }}</code>
            @if($problem['keeps'] !== '')<p class="quiet small">In its configuration, so that a restart keeps it: <code>{{
            $problem['keeps'] }}</code></p>@endif</div></li>@endforeach</ul>@endif
        @endif
        @if($watching !== null)<p class="quiet">Watching took {{ Quantity::duration($watching->durationUs) }} of its time in the last
            day, {{ Quantity::percent($watching->share()) }} of what it spent on statements ({{
            Quantity::count($watching->executions) }} {{ Str::plural('statement', $watching->executions) }}, measured by the server). It
            is left out of the load.</p>@endif
        <form method="post" action="{{ address('cluster.check', $cluster->slug) }}">@csrf<button
            class="btn btn-line">Check the connection</button></form>
    @endif
    <h2>Settings</h2>
    <form class="form-grid" method="post" action="{{ address('cluster.update', $cluster->slug) }}">
        @csrf
        <label for="name">Name</label><input class="form-control" id="name" name="name" value="{{
            old('name', $cluster->name) }}" required maxlength="120">
        <label for="role">Role</label><input class="form-control" id="role" name="role" value="{{
            old('role', $cluster->role) }}" required maxlength="60">
        @if($cluster->isLive())
            @unless($cluster->is_own)@include('clusters.connection')@endunless
            <label for="interval_seconds">Read every, seconds</label><input class="form-control" id="interval_seconds"
                name="interval_seconds" inputmode="numeric" value="{{ old('interval_seconds', $cluster->interval_seconds) }}">
            @error('interval_seconds')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
            <label for="paused">Pause reading</label><div><input class="form-check-input" id="paused" type="checkbox" name="paused"
                value="1" @checked(old('paused', $cluster->paused))></div>
        @endif
        <label for="retention_days">Keep summaries, days</label><input class="form-control" id="retention_days" name="retention_days"
            inputmode="numeric" value="{{ old('retention_days', $cluster->retention_days) }}">
        @error('retention_days')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="sample_days">Keep samples, days</label><input class="form-control" id="sample_days" name="sample_days"
            inputmode="numeric" value="{{ old('sample_days', $cluster->sample_days) }}">
        @error('sample_days')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <span></span><div><button class="btn btn-primary">Save</button></div>
    </form>
    <h2 id="tokens">Tokens</h2>
    @if($token)<div class="notice" role="status">The token is <code>{{
        $token }}</code>. It is shown this once; only its digest is stored.</div>@endif
    <p>Send JSON Lines, plain or gzip: <code>curl -H "Authorization: Bearer TOKEN" --data-binary @@executions.jsonl {{
        url('/api/executions') }}</code>. Read use: <code>curl -H "Authorization: Bearer TOKEN" "{{
        url('/api/usage') }}?from=2026-11-01&amp;to=2026-11-30&amp;by=team,day"</code>. Metrics of hosts come from the
        <a href="{{ address('source.index') }}">agent and others</a>. Deploys: <code>curl -H "Authorization: Bearer TOKEN"
        -d name="loader 4.2" {{ url('/api/deploys') }}</code>. A token may do one of these.</p>
    @if($tokens->isNotEmpty())<x-table name="Tokens" class="facts" :export="false" :sorts="false">
    <thead><tr><th scope="col">Token</th><th scope="col">May</th><th scope="col">Made</th>
    <th scope="col">Last used</th><th scope="col"><span class="visually-hidden">Act</span></th></tr></thead><tbody>
        @foreach($tokens as $each)<tr><td>{{ $each->name }}</td><td>{{ match(true) {
            in_array('usage:read', $each->abilities ?? [], true) => 'read use',
            in_array('metrics:write', $each->abilities ?? [], true) => 'send metrics of hosts',
            in_array('deploys:write', $each->abilities ?? [], true) => 'note deploys',
            in_array('parts:read', $each->abilities ?? [], true) => 'read how Fulcrion is',
            default => 'send executions and jobs',
        } }}</td><td>{{ moment($each->created_at, MomentStyle::Day) }}</td>
        <td>{{ $each->last_used_at === null ? 'never' : moment($each->last_used_at) }}</td><td><form method="post" action="{{
            address('cluster.revoke-token', [$cluster->slug, $each->id]) }}">@csrf<button class="plain">Revoke<span
            class="visually-hidden"> {{
        $each->name }}</span></button></form></td></tr>@endforeach
    </tbody></x-table>@endif
    <form class="filters" method="post" action="{{ address('cluster.add-token', $cluster->slug) }}">@csrf<div><label
        for="token_name">Name of who uses it</label><input class="form-control" id="token_name" name="token_name" required
        maxlength="100"></div><div><label for="token_may">May</label><select class="form-select" id="token_may" name="may">
        <option value="executions:write">send executions and jobs</option>
        <option value="metrics:write">send metrics of hosts</option><option value="usage:read">read use</option>
        <option value="deploys:write">note deploys</option>
        <option value="parts:read">read how Fulcrion is</option>
        </select></div><button class="btn btn-line">Make a token</button></form>
    @unless($cluster->is_own)
    <h2 id="remove">Remove</h2>
    <p>Removes the cluster and all its telemetry from Fulcrion; this cannot be undone. The watched server itself is not touched.</p>
    <form class="filters" method="post" action="{{ address('cluster.remove', $cluster->slug) }}">@csrf<div><label for="confirm">Type {{
        $cluster->name }} to confirm</label><input class="form-control" id="confirm" name="confirm" autocomplete="off"></div><button
        class="btn btn-danger">Remove</button></form>
    @endunless
</div>
</x-layout>
