@php use App\Metrics\Places\PlaceTables; @endphp
{{-- Where the readings of a cluster are kept, and moved to. --}}
@if($place !== null && $place->state->isMoving())
    @if($place->error === null)@include('metrics.place-progress')
    @else<div class="notice bad" role="alert"><p>{{ $place->error }}</p><div class="acts">
        <form method="post" action="{{ address('place.again', $cluster->slug) }}">@csrf<button class="btn btn-primary">Go on</button></form>
        <form method="post" action="{{ address('place.back', $cluster->slug) }}">@csrf<button class="btn btn-line">Stop</button></form>
    </div></div>@endif
@else
@php $asked = $errors->hasAny(['host', 'port', 'database', 'username', 'secret']) || old('database') !== null; @endphp
@if($place !== null)<form method="post" action="{{ address('place.back', $cluster->slug) }}">@csrf<button class="btn btn-line">Take them
    back here</button></form>@endif
<details class="more" @if($asked) open @endif><summary>{{ $place === null ? 'Keep them in another MariaDB' : 'Change how it is reached'
    }}</summary>
<form method="post" action="{{ address('place.set', $cluster->slug) }}" class="form-grid">@csrf
<label for="host">Host</label><input class="form-control" id="host" name="host" value="{{ old('host', $place->host ?? '') }}"
    placeholder="db.example" required>@error('host')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
<label for="port">Port</label><input class="form-control" id="port" name="port" inputmode="numeric" value="{{
    old('port', $place->port ?? 3306) }}">@error('port')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
<label for="database">Database</label><input class="form-control" id="database" name="database" value="{{
    old('database', $place->name ?? '') }}" required>@error('database')<span class="hint bad-text" role="alert">{{ $message
    }}</span>@enderror
<label for="username">User</label><input class="form-control" id="username" name="username" value="{{
    old('username', $place->username ?? '') }}" autocomplete="off" required>@error('username')<span class="hint bad-text" role="alert">{{
    $message }}</span>@enderror
<label for="secret">Password</label><input class="form-control" id="secret" name="secret" type="password" autocomplete="new-password"
    required>@error('secret')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
<label for="tls">TLS</label><div><input class="form-check-input" id="tls" type="checkbox" name="tls" value="1" @checked(old('tls',
    $place->tls ?? false))></div>
<span class="hint">A database of its own, and a user who may create, read and write its tables. User and password are stored encrypted. What
    is kept until now is moved; meanwhile readings come in as before.</span>
<div></div><div><button class="btn btn-primary">{{ $place === null ? 'Check and move' : 'Check and save' }}</button></div>
</form></details>
@endif
