@php use App\Platform\Support\MomentStyle; use Fulcrion\Core\Text\Quantity; @endphp
<x-layout title="Alerts and incidents" bench="tend" sub="alerts">
<div class="reading">
    <h1>{{ $sentence }}</h1>
    @if($figure !== null)<x-figure :figure="$figure" name="When alerts rang" />@endif
    <div class="tools">@can('alert')<a class="btn btn-primary" href="{{ address('alert.create') }}">Set an alert</a>@else<a href="{{
        address('alert.create') }}">Rehearse an alert</a> <span class="quiet">Engineers set alerts.</span>@endcan
        <a href="{{ address('silence.index') }}">Silences</a> <a href="{{ address('notification.index') }}">Who is told</a></div>
    @if($open !== [])<h2>Open</h2>
    <x-table name="Open incidents"><thead><tr><th scope="col">Incident</th><th scope="col">Cluster</th><th scope="col">Since</th>
        <th scope="col">Held by</th></tr></thead><tbody>@foreach($open as $incident)<tr data-row>
        <td><x-state :is="$incident->quiet_since !== null ? 'calm' : ($incident->is_urgent ? 'act' : 'watch')"><a href="{{
            address('incident.show', $incident->id) }}">{{ $incident->title }}</a></x-state></td>
        <td>{{ $incident->cluster->name }}</td>
        <td class="nowrap">{{ moment($incident->opened_at * 1_000_000, MomentStyle::Minute, $zone) }}</td>
        <td>{{ $incident->taken_by ?? 'nobody yet' }}</td></tr>@endforeach</tbody></x-table>@endif
    @if($alerts !== [])<h2>Alerts</h2>
    <x-table name="Alerts"><thead><tr><th scope="col">Alert</th><th scope="col">Condition</th><th scope="col">Cluster</th>
        <th scope="col" class="n">Rang in 14 days</th><th scope="col">State</th>@can('alert')<th scope="col"><span
        class="visually-hidden">Act</span></th>@endcan</tr></thead><tbody>@foreach($alerts as [$alert, $words, $rang, $rings])<tr data-row>
        <td><a href="{{ address('alert.show', $alert->id) }}">{{ $alert->name }}</a></td><td>{{ $words }}@if($alert->error)<br><span
        class="bad-text small">{{ $alert->error }}</span>@endif</td><td>{{ $alert->cluster->name }}</td><td class="n">{{ $rang }}</td>
        <td class="nowrap">@if(! $alert->is_on)<span class="quiet">off</span>@else<x-state :is="$alert->error !== null ? 'no data' : ($rings
            ? ($alert->is_urgent ? 'act' : 'watch') : 'calm')">{{ $alert->error !== null ? 'cannot be judged' : ($rings ? 'rings'
            : 'quiet') }}</x-state>@endif</td>
        @can('alert')<td class="nowrap"><form class="inline" method="post" action="{{ address('alert.switch', $alert->id) }}">@csrf<button
        class="plain">Switch {{ $alert->is_on ? 'off' : 'on' }}<span class="visually-hidden"> {{ $alert->name
        }}</span></button></form></td>@endcan</tr>@endforeach</tbody></x-table>
    @else<x-empty>An alert holds a condition against what comes in: a measure of hosts, the probe, what waits, findings, or that nothing
        comes in at all. Before it is set it is rehearsed on the last 28 days.</x-empty>@endif
    @if($past !== [])<h2>Over in the last 14 days</h2>
    <x-table name="Incidents that are over"><thead><tr><th scope="col">Incident</th><th scope="col">Cluster</th><th scope="col">Began</th>
        <th scope="col" class="n">Lasted</th><th scope="col">Was it one?</th></tr></thead><tbody>@foreach($past as $incident)<tr data-row>
        <td><a href="{{ address('incident.show', $incident->id) }}">{{ $incident->title }}</a></td><td>{{ $incident->cluster->name }}</td>
        <td class="nowrap">{{ moment($incident->opened_at * 1_000_000, MomentStyle::Minute, $zone) }}</td>
        <td class="n">{{ Quantity::duration(($incident->ended_at - $incident->opened_at) * 1e6) }}</td>
        <td>{{ match ($incident->was_real) { true => 'yes', false => 'false alarm', null => 'not said' } }}</td></tr>@endforeach</tbody>
    </x-table>@endif
</div>
</x-layout>
