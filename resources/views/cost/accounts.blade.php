@php use App\Platform\Support\MomentStyle; use Fulcrion\Core\Text\Quantity; @endphp
<x-layout title="Statements of account" bench="meter" sub="accounts">
<div class="reading">
    <h1>{{ $schedules === [] ? 'Nobody gets a statement of account yet' : count($schedules).' '.Str::plural('statement',
        count($schedules)).' of account '.(count($schedules) === 1 ? 'is' : 'are').' planned each month'.($waiting === 0 ? ''
        : "; {$waiting} ".($waiting === 1 ? 'waits' : 'wait').' for somebody to look at the preview') }}</h1>
    @if($schedules === [])<x-empty>A statement of account says what a team used and cost in a month, what changed and why, and what would
        make it cheaper: one PDF and one HTML file, sent by mail.</x-empty>@else
    <x-table name="Planned" :export="false" :sorts="false"><thead><tr><th scope="col">State</th><th scope="col">Team</th>
        <th scope="col">To</th><th scope="col" class="n">Day of the month</th><th scope="col">Sent last</th>
        <th scope="col"><span class="visually-hidden">Act</span></th></tr></thead>
    <tbody>@foreach($schedules as $one)<tr data-row><td><x-state :is="$one->confirmed_us === null ? 'watch' : 'calm'">{{
        $one->confirmed_us === null ? 'waits for a look' : 'goes out' }}</x-state></td>
        <td><a href="{{ address('team.show') }}?{{ http_build_query(['team' => $one->team, 'days' => 'last month']) }}">{{
        $one->team }}</a></td><td class="mono">{{ $one->recipient }}</td>
        <td class="n">{{ $one->day }}</td><td>{{ $one->last_month ?? Quantity::NONE }}</td>
        <td class="acts"><a href="{{ address('account.preview', $one->id) }}">Preview</a>
        @if($one->confirmed_us !== null)<form method="post" action="{{ address('account.send', $one->id) }}">@csrf<button class="plain">Send
        {{ $month->describe() }} now</button></form>@endif
        <form method="post" action="{{ address('account.remove', $one->id) }}">@csrf<button class="plain">End it<span
        class="visually-hidden"> for {{ $one->recipient }}</span></button></form></td></tr>@endforeach</tbody></x-table>@endif
    <h2>Plan another</h2>
    <form class="form-grid" method="post" action="{{ address('account.store') }}">@csrf
        <label for="a-team">Team</label><select class="form-select" id="a-team" name="team">@foreach($teams as $one)<option
        @selected(old('team', $team) === $one)>{{ $one }}</option>@endforeach</select>
        @error('team')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="a-to">To</label><input class="form-control" id="a-to" name="recipient" type="email" required maxlength="190"
        placeholder="name@example.com" value="{{ old('recipient') }}">
        @error('recipient')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="a-day">Day of the month</label><input class="form-control" id="a-day" name="day" inputmode="numeric" required
        value="{{ old('day', '2') }}">@error('day')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <span></span><div><button class="btn btn-primary">Show me the first one</button></div>
    </form>
    <h2>Sent</h2>
    @if($sent === [])<x-empty>None was sent yet.</x-empty>@else
    <x-table name="Sent" :export="false"><thead><tr><th scope="col">When</th><th scope="col">State</th><th scope="col">Team</th>
        <th scope="col">Month</th><th scope="col">Says</th><th scope="col">To</th><th scope="col">By</th><th scope="col">Files</th></tr>
        </thead>
    <tbody>@foreach($sent as $one)<tr data-row><td class="nowrap">{{ moment($one->made_us) }}</td>
        <td><x-state :is="['sent' => 'calm', 'failed' => 'act', 'waiting' => 'watch'][$one->state] ?? 'no data'">@if($one->state !== null)<a
        href="{{ address('notification.show', $one->notification_id) }}">{{ $one->state }}</a>@else gone @endif</x-state></td>
        <td>{{ $one->team }}</td><td class="nowrap">{{ $one->month }}</td><td>{{ $one->sentence }}@if($one->error !== null)<br><span
        class="bad-text small">{{ $one->error }}</span>@endif</td>
        <td class="mono">{{ $one->recipient }}</td><td>{{ $one->made_by }}</td><td class="nowrap">@foreach(['pdf', 'html'] as $format)<a
        href="{{ address('account.file', [$one->id, $format]) }}">{{ strtoupper($format) }}</a> @endforeach</td></tr>@endforeach</tbody>
    </x-table>@endif
</div>
</x-layout>
