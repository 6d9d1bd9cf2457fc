@php $people = fn ($gains) => count(array_unique(array_merge([], ...array_map(fn ($s) => $s->gains === $gains ? $s->people : [],
    $shifts)))); @endphp
<div id="radius">@if($shifts !== [])<p><strong>{{ $people(false) }} {{ $people(false) === 1 ? 'person' : 'people' }} would see less, {{
    $people(true) }} more.</strong> People and columns that change alike stand together.</p>@endif @include('access.shifts')</div>
