@props(['name', 'export' => true, 'sorts' => true, 'fit' => '', 'columns' => null])
{{-- A table of its own width that scrolls on its own, can be sorted by its columns and taken away. --}}
<div @class(['scroll', $fit => $fit !== '']) tabindex="0" role="region" aria-label="{{ $name }}"><table {{ $attributes }} @if($export)
    data-export="{{ $export === true ? $name : $export }}"@endif @if($sorts) data-sorts="{{ $name }}"@endif
    @if($columns ?? $export) data-columns="{{ $name }}"@endif>{{ $slot }}</table></div>
