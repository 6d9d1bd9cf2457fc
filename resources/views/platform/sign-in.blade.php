<x-layout title="Sign in">
    <p class="mark"><x-mark /> Fulcrion</p>
    <h1>Sign in</h1>
    <form method="post" action="{{ address('sign-in.enter') }}">
        @csrf
        @error('email')<div class="notice bad" role="alert">{{ $message }}</div>@enderror
        <p><label for="email" class="form-label">Address</label>
        <input class="form-control" id="email" name="email" type="email" value="{{ old('email') }}" autocomplete="username" required
            autofocus></p>
        <p><label for="password" class="form-label">Password</label>
        <input class="form-control" id="password" name="password" type="password" autocomplete="current-password" required></p>
        <button class="btn btn-primary">Sign in</button>
    </form>
</x-layout>
