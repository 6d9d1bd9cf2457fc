<x-layout title="At this moment" bench="tend" sub="hosts">
<div class="reading">
    <x-filters :to="address('host.live')">
    <div><label for="live-host">Host</label><select class="form-select" id="live-host" name="host">@foreach($hosts as $each)<option
        @selected($each->host === $host && $each->slug === $cluster?->slug)>{{ $each->host }}</option>@endforeach</select></div>
    <div><label for="live-at">Moment, {{ $zone->getName() }}</label><input class="form-control" id="live-at" name="at" value="{{ $text }}"
        placeholder="now" list="moments"><datalist id="moments"><option>now</option><option>yesterday 11:00</option></datalist></div>
    </x-filters>
    @if($complaint !== null)<div class="notice bad" role="alert">{{ $complaint }} This moment is shown instead.</div>@endif
    @include('health.live-part')
</div>
</x-layout>
