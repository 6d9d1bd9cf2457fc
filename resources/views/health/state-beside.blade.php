@php $shown = array_filter($page->charts, fn ($one) => in_array($one[0]->id, ['connections', 'row-locks', 'disk'], true)); @endphp
<div class="split"><h2>The server at the same time</h2><a href="{{ address('state.show') }}?{{ http_build_query(['cluster' =>
    $cluster->slug, 'window' => $text]) }}">All of its state</a></div>
@if($shown === [])<p class="quiet">Its state was not read in this window. Readings are kept for 14 days.</p>@endif
@foreach($shown as [$chart, $figure])
<section class="over-time"><h3>{{ $chart->title }}</h3>
    @if(count($figure->head) > 2)<p class="key">@foreach(array_slice($figure->head, 1) as $i => $name)<span
        class="dash s{{ $i + 1 }}"></span> {{ $name }} @endforeach</p>@endif
    <x-figure :figure="$figure" :name="$chart->title" /></section>
@endforeach
