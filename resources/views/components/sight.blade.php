@props(['access'])
<span class="state sight-{{ $access->sight->value }}"><svg viewBox="0 0 12 12"
    aria-hidden="true">@switch($access->sight->value)@case('visible')<rect x="1" y="3" width="10" height="6"
    class="full"/>@break @case('masked')<rect x="1" y="3" width="10" height="6"/><path
    d="M3 9l2-6M6 9l2-6M9 9l1.5-5"/>@break @case('hidden')<path d="M1 6h10" stroke-dasharray="2 2"/>@break @default<path
    d="M2 2l8 8M10 2l-8 8"/>@endswitch</svg> {{ $access->words() }}</span>
