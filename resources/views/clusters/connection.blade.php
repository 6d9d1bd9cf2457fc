<label for="host">Host</label><input class="form-control" id="host" name="host" value="{{ old('host', $cluster->host ?? '') }}"
    placeholder="db.example">
@error('host')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
<label for="port">Port</label><input class="form-control" id="port" name="port" inputmode="numeric" value="{{
    old('port', $cluster->port ?? 3306) }}">
@error('port')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
<label for="username">User</label><input class="form-control" id="username" name="username" value="{{
    old('username', $cluster->username ?? '') }}" autocomplete="off">
@error('username')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
<label for="secret">Password</label><input class="form-control" id="secret" name="secret" type="password" autocomplete="new-password"
    @isset($cluster) placeholder="unchanged" @endisset>
@error('secret')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
<label for="ender_username">User that may stop sessions</label><input class="form-control" id="ender_username" name="ender_username"
    value="{{ old('ender_username', $cluster->ender_username ?? '') }}" autocomplete="off" placeholder="none">
@error('ender_username')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
<label for="ender_secret">Its password</label><input class="form-control" id="ender_secret" name="ender_secret" type="password"
    autocomplete="new-password" @isset($cluster) placeholder="unchanged" @endisset>
<span class="hint">It cancels statements and ends sessions when an engineer asks for it, and needs no other right: <code>GRANT CONNECTION
    ADMIN ON *.* TO ...</code></span>
<label for="tls">TLS</label><div><input class="form-check-input" id="tls" type="checkbox" name="tls" value="1" @checked(old('tls',
    $cluster->tls ?? false))></div>
<span class="hint">With TLS the certificate of the server must be signed by an authority this machine trusts. User and password are
    stored encrypted.</span>
