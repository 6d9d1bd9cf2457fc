@props(['caption' => ''])
{{-- Facts by name: a row of a heading and what it is. --}}
<table {{ $attributes->class('facts') }}>@if($caption !== '')<caption class="visually-hidden">{{
    $caption }}</caption>@endif<tbody>{{ $slot }}</tbody></table>
