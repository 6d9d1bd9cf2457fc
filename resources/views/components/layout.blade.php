@props(['title', 'bench' => '', 'sub' => ''])
@php($user = auth()->user())
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
        <a class="mark" href="/"><x-mark /> Fulcrion</a>
        <ul>
            <li><a class="entry" data-key="r" href="/" @if($bench === 'round') aria-current="page" @endif>Round <kbd>r</kbd></a></li>
            <li>
                <a class="entry" data-key="t" href="/tune/statements" @if($bench === 'tune' && $sub === '') aria-current="page" @endif>Tune <kbd>t</kbd></a>
                @if($bench === 'tune')
                    @foreach(['statements' => 'Statements', 'compare' => 'Compare', 'running' => 'Running now', 'plans' => 'Plans', 'workbench' => 'Workbench', 'rewrites' => 'Rewrites', 'layout' => 'Layout', 'prepared' => 'Prepared answers', 'encodings' => 'Encodings', 'indexes' => 'Indexes', 'tuning' => 'Tuning runs', 'jobs' => 'Jobs', 'catalog' => 'Catalog', 'imports' => 'Imports'] as $name => $label)
                        @if(! in_array($name, ['workbench', 'rewrites'], true) || $user->can('run'))<a class="sub" href="/tune/{{ $name }}" @if($sub === $name) aria-current="page" @endif>{{ $label }}</a>@endif
                    @endforeach
                @endif
            </li>
            <li><a class="entry" data-key="g" href="/guard" @if($bench === 'guard' && $sub === '') aria-current="page" @endif>Guard <kbd>g</kbd></a>
                @if($bench === 'guard')
                    @foreach(['access' => ['', 'Access', false], 'try' => ['/try', 'Try as', true], 'draft' => ['/draft', 'Draft', true], 'policy' => ['/policy', 'Policy', false], 'labels' => ['/labels', 'Labels', true], 'review' => ['/review', 'Review', true], 'products' => ['/products', 'Products', false], 'requests' => ['/requests', 'Requests', false], 'decisions' => ['/decisions', 'Decisions', false]] as $name => [$path, $label, $steward])
                        @if(! $steward || $user->can('guard'))<a class="sub" href="/guard{{ $path }}" @if($sub === $name) aria-current="page" @endif>{{ $label }}</a>@endif
                    @endforeach
                @endif
            </li>
            <li><a class="entry" data-key="n" href="/tend/clusters" @if($bench === 'tend') aria-current="page" @endif>Tend <kbd>n</kbd></a></li>
            <li><a class="entry" data-key="l" href="/ledger/findings" @if($bench === 'ledger' && $sub === '') aria-current="page" @endif>Ledger <kbd>l</kbd></a>
                @if($bench === 'ledger')
                    @foreach(['findings' => 'Findings', 'changes' => 'Changes', 'proofs' => 'Proofs', 'outbox' => 'Outbox', 'acts' => 'Acts'] as $name => $label)<a class="sub" href="{{ $name === 'acts' ? '/ledger' : "/ledger/{$name}" }}" @if($sub === $name) aria-current="page" @endif>{{ $label }}</a>@endforeach
                @endif
            </li>
        </ul>
        <div class="foot">
            @can('own')<a href="/people">People</a>@endcan
            <a href="/account">{{ $user->name }}</a>
            <button type="button" class="plain" data-opens-sheet>Keys</button>
            <form method="post" action="/sign-out">@csrf<button class="plain">Sign out</button></form>
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
    <table>
        <tbody>
        @foreach(['r' => 'Round', 't' => 'Tune', 'g' => 'Guard', 'n' => 'Tend', 'l' => 'Ledger', '/' => 'find by words', 'j' => 'next row', 'k' => 'row before', 'Enter' => 'open the row', 'c' => 'compare with what was before', 'p' => 'pin a decision', 'Esc' => 'back', '?' => 'this sheet'] as $key => $what)
            <tr><th scope="row"><kbd>{{ $key }}</kbd></th><td>{{ $what }}</td></tr>
        @endforeach
        </tbody>
    </table>
    <p class="quiet small">On the time rail: arrow keys move an end by an hour, with Shift by five minutes, Page Up and Page Down by a day.</p>
    <button type="button" class="btn btn-line" data-closes-sheet>Close</button>
</dialog>
@else
<main id="content" class="gate">{{ $slot }}</main>
@endauth
</body>
</html>
