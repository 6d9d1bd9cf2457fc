@props(['title', 'bench' => '', 'sub' => ''])
@inject('sections', App\Platform\Sections\Sections::class)
@php($user = auth()->user())
@php($navigation = $user === null ? [] : $sections->navigation(Illuminate\Support\Facades\Gate::getFacadeRoot(), $user))
<!DOCTYPE html>
<html lang="en" data-theme="{{ $user->theme ?? 'day' }}">
<head>
    <meta charset="utf-8">
    <meta name="viewport" content="width=device-width, initial-scale=1">
    <meta name="csrf-token" content="{{ csrf_token() }}">
    <title>{{ $title }} · Fulcrion</title>
    <link rel="icon" href="/mark.svg" type="image/svg+xml">
    @vite(['resources/scss/app.scss', 'resources/js/app.js'])
</head>
<body hx-headers='{"X-CSRF-TOKEN": "{{ csrf_token() }}"}'>
<a class="skip" href="#content">Skip to content</a>
@auth
<div class="shell">
    <nav class="spine" aria-label="Benches">
        <a class="mark" href="{{ address('round') }}"><x-mark /> Fulcrion</a>
        <ul>
            @foreach($navigation as ['bench' => $entry, 'address' => $address, 'groups' => $groups])
            <li>
                <a class="entry" data-key="{{ $entry->key() }}" href="{{ $address }}" @if($bench === $entry->value && $sub === '')
                    aria-current="page" @endif>{{ $entry->label() }} <kbd>{{ $entry->key() }}</kbd></a>
                @if($bench === $entry->value)
                    @foreach($groups as $group => $pages)
                        @if($group !== '')<span class="group">{{ $group }}</span>@endif
                        @foreach($pages as $page)<a class="sub" href="{{ $page->address() }}" @if($sub === $page->name) aria-current="page"
                            @endif>{{ $page->label }}</a>@endforeach
                    @endforeach
                @endif
            </li>
            @endforeach
        </ul>
        <div class="foot">
            @can('own')<a href="{{ address('people.index') }}">People</a>@endcan
            <a href="{{ address('account.edit') }}">{{ $user->name }}</a>
            <button type="button" class="plain" data-opens-sheet>Keys</button>
            <form method="post" action="{{ address('sign-in.leave') }}">@csrf<button class="plain">Sign out</button></form>
        </div>
    </nav>
    <main id="content" class="content" tabindex="-1">
        @if(session('done'))<div class="notice" role="status">{{ session('done') }}</div>@endif
        @if(session('failed'))<div class="notice bad" role="alert">{{ session('failed') }}</div>@endif
        {{ $slot }}
    </main>
</div>
<dialog class="sheet" id="key-sheet" aria-labelledby="key-sheet-title">
    <h2 id="key-sheet-title">Keys</h2>
    <x-facts>
        @foreach([...collect($navigation)->mapWithKeys(fn (array $one): array => [$one['bench']->key() => $one['bench']->label()]),
            '/' => 'find by words', 'j' => 'next row', 'k' => 'row before', 'Enter' => 'open the row',
            'c' => 'compare with what was before', 'p' => 'pin a decision', 'Esc' => 'back', '?' => 'this sheet'] as $key => $what)
            <tr><th scope="row"><kbd>{{ $key }}</kbd></th><td>{{ $what }}</td></tr>
        @endforeach
        </x-facts>
    <p class="quiet small">On the time rail: arrow keys move an end by an hour, with Shift by five minutes, Page Up and Page Down by a
        day.</p>
    <button type="button" class="btn btn-line" data-closes-sheet>Close</button>
</dialog>
@else
<main id="content" class="gate">{{ $slot }}</main>
@endauth
</body>
</html>
