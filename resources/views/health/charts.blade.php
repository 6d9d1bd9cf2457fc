@php $heading ??= 'h2'; @endphp
@foreach($charts as [$chart, $figure])
<section class="over-time"><{{ $heading }}>{{ $chart->title }}</{{ $heading }}>
    @if(count($figure->head) > 2)<p class="key">@foreach(array_slice($figure->head, 1) as $i => $name)<span
        class="dash s{{ $i + 1 }}"></span> {{ $name }} @endforeach</p>@endif
    <x-figure :figure="$figure" :name="$chart->title" /></section>
@endforeach
