@php use App\Platform\Support\MomentStyle; @endphp
<x-layout :title="'Incident '.$incident->id" bench="tend" sub="alerts">
<div class="reading">
    <p class="trail"><a href="{{ address('alert.index') }}">Alerts and incidents</a></p>
    <h1>{{ $page['sentence'] }}</h1>
    <p><x-state :is="! $incident->isOpen() || $incident->quiet_since !== null ? 'calm' : ($incident->is_urgent ? 'act' : 'watch')">{{
        $incident->isOpen() ? ($incident->taken_by === null ? 'open, and nobody has taken it' : "{$incident->taken_by} takes care of it")
        : 'over since '.moment($incident->ended_at * 1_000_000, MomentStyle::Minute, $zone) }}</x-state></p>
    <div class="tools">@can('alert')@if($incident->isOpen() && $incident->taken_at === null)<form method="post" action="{{
        address('incident.take', $incident->id) }}">@csrf<button class="btn btn-primary">I take it</button></form>@endif
        @if($incident->isOpen())<form class="filters" method="post" action="{{ address('incident.hand', $incident->id) }}">@csrf<select
        class="form-select" name="to" aria-label="Who takes it over">@foreach($people as $person)<option value="{{ $person->id }}">{{
        $person->name }}</option>@endforeach</select><button class="btn btn-line">Hand it over</button></form>@endif @endcan
        <a href="{{ address('incident.file', $incident->id) }}">Take it away as one file</a>
        <a href="{{ address('moment.show') }}?{{ http_build_query(['cluster' => $incident->cluster->slug, 'at' =>
        moment($incident->opened_at * 1_000_000, MomentStyle::Written, $zone)]) }}">That moment</a></div>
    @error('to')<p class="bad-text" role="alert">{{ $message }}</p>@enderror
    @include('alerts.incident-body', ['links' => true])
    @can('alert')
    <form class="form-grid" method="post" action="{{ address('incident.note', $incident->id) }}">@csrf
        <label for="i-said">Write a note</label><textarea class="form-control" id="i-said" name="said" rows="3" maxlength="4000" required>{{
            old('said') }}</textarea>@error('said')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <span></span><div><button class="btn btn-line">Add</button></div></form>
    <h2>Was it one?</h2>
    <p>{{ match ($incident->was_real) { true => 'It was, and is marked for rehearsals.', false => 'It was a false alarm.', null =>
        'Rehearsals tell whether an alert catches those that were.' } }}</p>
    <div class="tools"><form method="post" action="{{ address('incident.real', $incident->id) }}">@csrf<input type="hidden" name="real"
        value="1"><button class="btn btn-line">It was one</button></form><form method="post" action="{{ address('incident.real',
        $incident->id) }}">@csrf<input type="hidden" name="real" value="0"><button class="btn btn-line">A false alarm</button></form></div>
    @endcan
</div>
</x-layout>
