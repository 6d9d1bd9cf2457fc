<x-layout title="Account">
    <div class="reading">
    <h1>{{ auth()->user()->name }}, {{ auth()->user()->role->value }}: {{ auth()->user()->role->describe() }}</h1>
    <form class="form-grid" method="post" action="{{ address('account.update') }}">
        @csrf
        <label for="name">Name</label><input class="form-control" id="name" name="name" value="{{ old('name', auth()->user()->name) }}"
            required maxlength="120">
        <label for="time_zone">Time zone</label><input class="form-control" id="time_zone" name="time_zone" list="zones" value="{{
            old('time_zone', auth()->user()->time_zone) }}" required>
        @error('time_zone')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <datalist id="zones">@foreach($zones as $zone)<option value="{{ $zone }}">@endforeach</datalist>
        <label for="theme">Paper</label><select class="form-select" id="theme" name="theme">@foreach(['day' => 'day',
            'night' => 'night'] as $value => $label)<option value="{{ $value }}" @selected(old('theme',
            auth()->user()->theme) === $value)>{{ $label }}</option>@endforeach</select>
        <span></span><div><button class="btn btn-primary">Save</button></div>
    </form>
    <h2>Password</h2>
    <form class="form-grid" method="post" action="{{ address('account.password') }}">
        @csrf
        <label for="current_password">Current password</label><input class="form-control" id="current_password" name="current_password"
            type="password" autocomplete="current-password" required>
        @error('current_password')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="new_password">New password</label><input class="form-control" id="new_password" name="password" type="password"
            autocomplete="new-password" minlength="12" required>
        @error('password')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="password_confirmation">Once more</label><input class="form-control" id="password_confirmation"
            name="password_confirmation" type="password" autocomplete="new-password" required>
        <span></span><div><button class="btn btn-line">Change password</button></div>
    </form>
    </div>
</x-layout>
