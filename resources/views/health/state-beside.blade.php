@php $shown = array_filter($page->charts, fn ($one) => in_array($one[0]->id, ['connections', 'row-locks', 'disk'], true)); @endphp
<div class="split"><h2>The server at the same time</h2><a href="{{ address('state.show') }}?{{ http_build_query(['cluster' =>
    $cluster->slug, 'window' => $text]) }}">All of its state</a></div>
@if($shown === [])<p class="quiet">Its state was not read in this window. Readings are kept for {{
    $cluster->retention_days }} days.</p>@endif
@include('health.charts', ['charts' => $shown, 'heading' => 'h3'])
