@php use App\Platform\Support\MomentStyle; @endphp
<x-layout title="A moment" bench="tend" sub="moment">
<div class="reading">
    @if($cluster !== null)
    <x-filters :to="address('moment.show')">
    <div><label for="moment-cluster">Cluster</label><select class="form-select" id="moment-cluster" name="cluster">
        @foreach($clusters as $each)<option value="{{ $each->slug }}" @selected($each->id === $cluster->id)>{{
            $each->name }}</option>@endforeach</select></div>
    <div><label for="moment-at">Moment, {{ $zone->getName() }}</label><input class="form-control" id="moment-at" name="at" value="{{
        $text }}" placeholder="now" list="moments"><datalist id="moments"><option>now</option><option>monday 08:40</option>
        <option>yesterday 11:00</option></datalist></div>
    </x-filters>
    @endif
    @if($page === null)<h1>No cluster is connected</h1>
    @else
    <h1>{{ moment($at * 1_000_000, MomentStyle::Minute, $zone) }}: {{ lcfirst($page['answer']->sentence) }}</h1>
    @if($complaint !== null)<div class="notice bad" role="alert">{{ $complaint }} This moment is shown instead.</div>@endif
    <div class="tools"><a href="{{ address('moment.file') }}?{{ http_build_query(['cluster' => $cluster->slug, 'at' => moment(
        $at * 1_000_000, MomentStyle::Written, $zone)]) }}">Take it away as one file</a>
        <a href="{{ address('system.show') }}?{{ http_build_query(['cluster' => $cluster->slug, 'at' => $text]) }}">Is it the system?</a>
        <a href="{{ address('cluster.time') }}?{{ http_build_query(['cluster' => $cluster->slug, 'window' => moment(($at - 21_600) *
            1_000_000, MomentStyle::Written, $zone).' to '.moment(($at + 21_600) * 1_000_000, MomentStyle::Written, $zone), 'at' =>
            moment($at * 1_000_000, MomentStyle::Written, $zone)]) }}">The hours around it</a></div>
    @include('health.moment-body', ['links' => true])
    @endif
</div>
</x-layout>
