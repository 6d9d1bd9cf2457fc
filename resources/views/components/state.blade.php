@props(['is'])
{{-- A state is told by shape, word and colour together. --}}
<span class="state {{ $is === 'no data' ? 'none' : $is }}"><svg viewBox="0 0 12 12" aria-hidden="true">
@switch($is)
    @case('calm')<circle cx="6" cy="6" r="4.5" fill="none" stroke="currentColor" stroke-width="1.6"/>@break
    @case('watch')<circle cx="6" cy="6" r="4.5" fill="none" stroke="currentColor" stroke-width="1.6"/><path d="M6 1.5a4.5 4.5 0 0 1 0 9z"
        fill="currentColor"/>@break
    @case('act')<path d="M6 .6 11.4 6 6 11.4 .6 6z" fill="currentColor"/>@break
    @default<circle cx="6" cy="6" r="4.5" fill="none" stroke="currentColor" stroke-width="1.6"/><path d="M2.5 9.5l7-7"
        stroke="currentColor" stroke-width="1.6"/>
@endswitch
</svg>{{ $slot->isEmpty() ? $is : $slot }}</span>
