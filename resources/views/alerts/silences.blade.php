@php use App\Platform\Support\MomentStyle; @endphp
<x-layout title="Silences" bench="tend" sub="silences">
<div class="reading">
    <h1>{{ $sentence }}</h1>
    <p>What rings in a silence is kept, and nobody is told. What still rings when the silence is over is told then.</p>
    @if($silences === [])<x-empty>Silence what is worked on: once, or every week, or as a calendar says.</x-empty>
    @else<x-table name="Silences" :sorts="false"><thead><tr><th scope="col">Why</th><th scope="col">Of</th><th scope="col">Comes</th>
        <th scope="col">Goes on or comes next</th><th scope="col">Set by</th>@can('alert')<th scope="col"><span
        class="visually-hidden">Act</span></th>@endcan</tr></thead><tbody>@foreach($silences as [$silence, $repeats, $next])<tr data-row>
        <td>{{ $silence->reason }}</td><td>{{ $silence->cluster->name ?? 'all clusters' }}{{ $silence->alert === null ? '' :
        ", {$silence->alert->name}" }}{{ $silence->host === null ? '' : ", {$silence->host}" }}</td><td>{{ $repeats }}</td>
        <td class="nowrap">@if($next === null)over @else{{ moment($next[0] * 1_000_000, MomentStyle::Minute, $zone) }} – {{
        moment($next[1] * 1_000_000, MomentStyle::Minute, $zone) }}@endif</td><td>{{ $silence->made_by }}</td>
        @can('alert')<td><form class="inline" method="post" action="{{ address('silence.remove', $silence->id) }}">@csrf<button
        class="plain">End<span class="visually-hidden"> {{ $silence->reason }}</span></button></form></td>@endcan</tr>@endforeach</tbody>
    </x-table>
    <p><a href="{{ address('silence.calendar') }}">All of them as a calendar</a></p>@endif
    @can('alert')
    <h2>Set one</h2>
    <form class="form-grid" method="post" action="{{ address('silence.add') }}">@csrf
        <label for="s-when">When, {{ $zone->getName() }}</label><input class="form-control" id="s-when" name="when" required value="{{
            old('when') }}" placeholder="next 2 hours" list="silence-times"><datalist id="silence-times"><option>next 2 hours</option>
            <option>today 22:00-23:30</option><option>tomorrow 01:00-04:00</option></datalist>
        @error('when')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="s-repeats">Comes</label><select class="form-select" id="s-repeats" name="repeats"><option value="">once</option>
            <option value="daily" @selected(old('repeats') === 'daily')>every day</option>
            <option value="weekly" @selected(old('repeats') === 'weekly')>every week</option></select>
        <label for="s-cluster">Cluster</label><select class="form-select" id="s-cluster" name="cluster"><option value="">all clusters
            </option>@foreach($clusters as $each)<option value="{{ $each->slug }}" @selected(old('cluster') === $each->slug)>{{
            $each->name }}</option>@endforeach</select>
        @error('cluster')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="s-alert">Alert</label><select class="form-select" id="s-alert" name="alert"><option value="">all alerts</option>
            @foreach($alerts as $each)<option value="{{ $each->id }}" @selected((int) old('alert') === $each->id)>{{ $each->name
            }}</option>@endforeach</select>
        @error('alert')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="s-host">Host</label><input class="form-control" id="s-host" name="host" maxlength="120" value="{{ old('host') }}"
            placeholder="all hosts">
        <label for="s-reason">Why</label><input class="form-control" id="s-reason" name="reason" required maxlength="300" value="{{
            old('reason') }}" placeholder="disks of fern-07 are exchanged">
        @error('reason')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <span></span><div><button class="btn btn-primary">Silence</button></div></form>
    <h2>Take them from a calendar</h2>
    <form class="filters" method="post" enctype="multipart/form-data" action="{{ address('silence.import') }}">@csrf
        <div><label for="s-file">Calendar file, .ics</label><input class="form-control" type="file" id="s-file" name="calendar"
            accept=".ics,text/calendar" required></div>
        <div><label for="s-of">Of</label><select class="form-select" id="s-of" name="cluster"><option value="">all clusters</option>
            @foreach($clusters as $each)<option value="{{ $each->slug }}">{{ $each->name }}</option>@endforeach</select></div>
        <button class="btn btn-line">Take its events</button></form>
    @error('calendar')<p class="bad-text" role="alert">{{ $message }}</p>@enderror
    @else<p class="quiet">Engineers set silences.</p>@endcan
</div>
</x-layout>
