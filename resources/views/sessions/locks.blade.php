<x-layout title="Locks" bench="tune" sub="locks">
<div class="reading">
    @if($live->count() > 1)
    <form class="topline" method="get" action="{{ address('locks.show') }}">
    <div><label for="cluster">Cluster</label><select class="form-select"
        id="cluster" name="cluster" data-submits>@foreach($live as $each)<option value="{{
        $each->slug }}" @selected($cluster->id === $each->id)>{{ $each->name }}</option>@endforeach</select></div></form>
    @endif
    <div id="now" @if($cluster) hx-get="{{ address('locks.show') }}?cluster={{ $cluster->slug }}" hx-trigger="every 3s" hx-swap="innerHTML"
        @endif>@include('sessions.locks-now')</div>
</div>
</x-layout>
