{{-- There is nothing to show: why, and what brings something. --}}
<p {{ $attributes->class('empty') }}>{{ $slot }}</p>
