@props(['to', 'part' => 'content'])
{{-- What a page shows. Choices act when they are made, words when nobody has typed for a moment; without a script there is a button. --}}
<form {{ $attributes->class('filters') }} method="get" action="{{ $to }}" role="search" data-filters hx-get="{{
    Str::before($to, '#') === '' ? url()->current() : Str::before($to, '#') }}" hx-target="#{{ $part }}" hx-select="#{{ $part }}"
    hx-swap="outerHTML" hx-sync="this:replace" @if($part === 'content') hx-push-url="true"@endif>
    {{ $slot }}
    <noscript><button class="btn btn-line">Filter</button></noscript>
</form>
