<x-layout title="Days" bench="meter" sub="days">
<div class="reading">
    <h1>{{ $page->sentence() }}</h1>
    @if($run !== null && ! $run->isOver())@include('usage.days-progress')@endif
    @if($page->known === [])<x-empty>No cluster is there yet. <a href="{{ address('cluster.create') }}">Add one</a>.</x-empty>@else
    <x-figure :figure="$page->figure()" name="Days of use" />
    @can('make-days')
    <h2>Rebuild days</h2>
    <p>Days that are not closed are made from their load. Those that are closed stay as they are, and what their load has otherwise is
        added to them as a correction of today. Doing it twice changes nothing more.</p>
    <form class="form-grid" method="post" action="{{ address('usage.make-days') }}">@csrf
        <label for="d-from">First day</label><input class="form-control" id="d-from" name="from" type="date" required value="{{
        old('from') }}">@error('from')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="d-to">Last day</label><input class="form-control" id="d-to" name="to" type="date" required value="{{ old('to') }}">
        @error('to')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <span></span><div><button class="btn btn-primary">Rebuild them</button></div>
    </form>
    @endcan
    <h2>Time zone</h2>
    <p>Days begin and end by the clocks of {{ $zone }}. Where clocks are put forward or back, a day has 23 or 25 hours and is paid for as
        such; an hour belongs to the day it begins in.</p>
    @can('set-zone')
    <form class="form-grid" method="post" action="{{ address('usage.zone') }}">@csrf
        <label for="d-zone">Count days by</label><select class="form-select" id="d-zone" name="zone">@foreach($zones as $one)
        <option @selected($one === old('zone', $zone))>{{ $one }}</option>@endforeach</select>
        @error('zone')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <span></span><p class="hint quiet">All hours that are kept are put into the days of that zone, those of closed days as well; what
            is known of days only stays as it is. Sums of all days together stay the same.</p>
        <span></span><div><button class="btn btn-line">Change the time zone</button></div>
    </form>
    @endcan
    @if($run !== null && $run->isOver())
    <h2>Last time</h2>
    <p>{{ $run->asked_by }}, {{ moment($run->asked_us) }}: {{ (new Fulcrion\Core\Usage\Days($run->from_at,
        $run->to_at + 86_400))->text() }}.
        @if($run->state === 'stopped')It was stopped; the days it had come to are made.@elseif($run->state === 'failed')<span
        class="bad-text">{{ $run->error }}</span>@endif</p>
    @if($run->result !== null)<x-facts>@foreach($run->result as $cluster => $said)<tr><th scope="row">{{ $cluster }}</th>
        <td>{{ $said }}</td></tr>@endforeach</x-facts>@endif
    @endif
    @endif
</div>
</x-layout>
