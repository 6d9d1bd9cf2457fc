@props(['route', 'query' => []])
@php
    $asked = $query === [] ? '' : '?'.http_build_query($query);
@endphp
@foreach(App\Platform\Support\ExportFormat::cases() as $format)<a href="{{ address($route, $format->value).$asked }}">{{
    strtoupper($format->value) }}</a>
@endforeach
