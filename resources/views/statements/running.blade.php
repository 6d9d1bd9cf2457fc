<x-layout title="Running now" bench="tune" sub="running">
<div class="reading">
    @if($live->count() > 1)
    <form class="topline" method="get" action="{{ address('running.show') }}">
    <div><label for="cluster">Cluster</label><select class="form-select"
        id="cluster" name="cluster" data-submits>@foreach($live as $each)<option value="{{
        $each->slug }}" @selected($cluster->id === $each->id)>{{ $each->name }}</option>@endforeach</select></div></form>
    @endif
    <div id="now" @if($cluster) hx-get="{{ address('running.show') }}?cluster={{ $cluster->slug }}" hx-trigger="every 2s"
        hx-swap="innerHTML"
        @endif>@include('statements.running-now')</div>
</div>
</x-layout>
