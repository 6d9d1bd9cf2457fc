<x-layout title="Running now" bench="tune" sub="running">
<div class="reading">
    @if($live->count() > 1)
    <form class="topline" method="get" action="/tune/running"><div><label for="cluster">Cluster</label><select class="form-select"
        id="cluster" name="cluster" data-submits>@foreach($live as $each)<option value="{{
        $each->slug }}" @selected($cluster->id === $each->id)>{{ $each->name }}</option>@endforeach</select></div></form>
    @endif
    <div id="now" @if($cluster) hx-get="/tune/running?cluster={{ $cluster->slug }}" hx-trigger="every 2s" hx-swap="innerHTML"
        @endif>@include('statements.running-now')</div>
</div>
</x-layout>
