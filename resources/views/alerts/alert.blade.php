@php
    use App\Alerts\Application\AlertFields; use App\Alerts\Application\AlertWords; use App\Platform\Support\MomentStyle;
    use Fulcrion\Core\Alerts\Watched; use Fulcrion\Core\Text\Quantity;
    $here = $known === null ? address('alert.create') : address('alert.show', $known->id);
    $alert = $draft?->alert; $fields = $draft->fields ?? []; $wrong = $draft->complaints ?? [];
    $unit = $alert === null ? '' : AlertWords::unit($alert->watched, $draft->signal);
@endphp
<x-layout :title="$known === null ? 'Set an alert' : $known->name" bench="tend" sub="alerts">
<div class="reading">
    <p class="trail"><a href="{{ address('alert.index') }}">Alerts and incidents</a></p>
    <h1>{{ $rehearsal?->sentence() ?? ($cluster === null ? 'No cluster is connected' : "Nothing of {$cluster->name} can be watched yet") }}
    </h1>
    @if($complaint !== null)<div class="notice bad" role="alert">{{ $complaint }}</div>@endif
    @if($cluster !== null)
    <x-filters :to="$here" id="rehearse">
    @if($known === null)<div><label for="a-cluster">Cluster</label><select class="form-select" id="a-cluster" name="cluster">
        @foreach($clusters as $each)<option value="{{ $each->slug }}" @selected($each->id === $cluster->id)>{{ $each->name
        }}</option>@endforeach</select></div>@endif
    <div><label for="a-signal">What is watched</label><select class="form-select" id="a-signal" name="signal">@foreach($signals as $each)
        <option value="{{ $each->key }}" @selected($each->key === ($fields['signal'] ?? ''))>{{ $each->label }}</option>@endforeach</select>
    </div>
    <div><label for="a-watched">Of it</label><select class="form-select" id="a-watched" name="watched">
        <option value="value">its value</option>
        <option value="usual" @selected(($fields['watched'] ?? '') === 'usual')>times the usual of the hour</option>
        @if($draft?->signal?->isLimited)<option value="days-left" @selected($fields['watched'] === 'days-left')>days until it is
            full</option>@endif
        <option value="silence" @selected(($fields['watched'] ?? '') === 'silence')>that nothing is told</option></select></div>
    @if($draft?->signal?->isPerHost)
    <div><label for="a-host">Host</label><select class="form-select" id="a-host" name="host"><option value="">any host</option>
        @foreach($fields['host'] !== '' && ! in_array($fields['host'], $hosts, true) ? [$fields['host'], ...$hosts] : $hosts as $each)
        <option @selected($each === $fields['host'])>{{ $each }}</option>@endforeach</select></div>
    <div><label for="a-share">Together, % of hosts</label><input class="form-control short" id="a-share" name="share" inputmode="decimal"
        value="{{ $fields['share'] }}" placeholder="one is enough"></div>
    @endif
    @if(in_array($alert?->watched, [Watched::Value, Watched::Usual], true))
    <div><label for="a-side">Rings at</label><select class="form-select" id="a-side" name="side"><option value="above">or more</option>
        <option value="below" @selected($fields['side'] === 'below')>or less</option></select></div>@endif
    <div><label for="a-threshold">{{ ucfirst($unit === '' ? 'threshold' : $unit) }}</label><input class="form-control short"
        id="a-threshold" name="threshold" inputmode="decimal" value="{{ $fields['threshold'] ?? '' }}"></div>
    @if($alert?->watched !== Watched::Silence)
    <div><label for="a-calm">Calm at</label><input class="form-control short" id="a-calm" name="calm" inputmode="decimal" value="{{
        $fields['calm'] ?? '' }}"></div>
    <div><label for="a-for">For, minutes</label><input class="form-control short" id="a-for" name="for" inputmode="decimal" value="{{
        $fields['for'] ?? '' }}"></div>@endif
    <div><label for="a-quiet">Over after calm, minutes</label><input class="form-control short" id="a-quiet" name="quiet"
        inputmode="decimal" value="{{ $fields['quiet'] ?? '' }}"></div>
    </x-filters>
    @foreach($wrong as $said)<div class="notice bad" role="alert">{{ $said }} The usual is shown instead.</div>@endforeach
    @if($draft?->signal === null)<x-empty>What can be watched appears here as soon as hosts are read, executions come in or a probe runs.
        <a href="{{ address('source.index') }}">Sources of metrics</a></x-empty>
    @elseif($figure === null)<x-empty>Nothing of it is known of the last 28 days, so that it cannot be rehearsed. It can be set all the
        same.</x-empty>
    @else<x-figure :figure="$figure" name="Rehearsed on the last 28 days" />
    <x-table name="What it would have been" class="facts" :export="false" :sorts="false"><tbody>
    <tr><th scope="row">Incidents</th><td>{{ $rehearsal->incidents }}, and {{ $rehearsal->words }} {{ Str::plural('message',
        $rehearsal->words) }} that one began or grew; {{ Quantity::duration($rehearsal->seconds() * 1e6) }} in all</td></tr>
    @if($rehearsal->marked !== [])<tr><th scope="row">Marked</th><td>{{ count($rehearsal->score->caught) }} of {{
        count($rehearsal->marked) }} caught; {{ count($rehearsal->score->quiet) }} of {{ count($rehearsal->rings) }} {{
        Str::plural('ring', count($rehearsal->rings)) }} where nothing was marked</td></tr>
    <tr><th scope="row">Quietest threshold</th><td>@if($rehearsal->quietest === null)No threshold catches all that is marked.@else<a
        href="{{ $here }}?{{ http_build_query(['cluster' => $cluster->slug, 'threshold' => AlertFields::shown($rehearsal->quietest /
        AlertWords::scale($alert->watched, $draft->signal))] + array_diff_key($fields, ['calm' => 0])) }}">{{ AlertWords::value($alert,
        $rehearsal->quietest, $draft->signal) }}</a> still catches all that is marked.@endif</td></tr>@endif
    </tbody></x-table>@endif
    @can('alert')
    @if($draft?->signal !== null)
    <h2>{{ $known === null ? 'Set it' : 'Change it' }}</h2>
    <p>{{ AlertWords::condition($alert, $draft->signal) }}.</p>
    <form class="form-grid" method="post" action="{{ $known === null ? address('alert.store') : address('alert.update', $known->id)
        }}">@csrf
        <input type="hidden" name="cluster" value="{{ $cluster->slug }}">
        @foreach($fields as $name => $value)<input type="hidden" name="{{ $name }}" value="{{ $value }}">@endforeach
        <label for="a-name">Name</label><input class="form-control" id="a-name" name="name" maxlength="120" required value="{{
            old('name', $known->name ?? '') }}" placeholder="Processors busy">
        @error('name')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="a-urgent">Urgent</label><div><input class="form-check-input" type="checkbox" id="a-urgent" name="urgent" value="1"
            @checked(old('urgent', $known->is_urgent ?? false))></div>
        <label for="a-second">When nobody takes it</label><div class="pair"><input class="form-control short" id="a-second"
            name="second_minutes" inputmode="numeric" aria-label="Minutes" value="{{ old('second_minutes', $known->second_minutes ?? '')
            }}" placeholder="30"> <span>min later tell</span> <select class="form-select" name="second_user" aria-label="Who is told">
            <option value="">nobody else</option>@foreach($people as $person)<option value="{{ $person->id }}" @selected((int)
            old('second_user', $known->second_user_id ?? 0) === $person->id)>{{ $person->name }}</option>@endforeach</select></div>
        @error('second_minutes')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        @error('second_user')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <span></span><div><button class="btn btn-primary">{{ $known === null ? 'Switch it on' : 'Change it' }}</button></div>
    </form>
    @if($known !== null)<form method="post" action="{{ address('alert.remove', $known->id) }}" data-sure="Remove {{ $known->name
        }}?">@csrf<button class="plain">Remove this alert</button></form>@endif
    @endif
    <h2>Mark what was wrong</h2>
    <form class="filters" method="post" action="{{ address('mark.add') }}">@csrf
        <input type="hidden" name="cluster" value="{{ $cluster->slug }}">
        <div><label for="m-when">When, {{ $zone->getName() }}</label><input class="form-control" id="m-when" name="when" value="{{
            old('when') }}" placeholder="monday 06:30-09:00"></div>
        <div><label for="m-mark">What it was</label><input class="form-control" id="m-mark" name="mark" maxlength="120" value="{{
            old('mark') }}" placeholder="dashboards waited"></div><button class="btn btn-line">Mark</button></form>
    @foreach(['when', 'mark'] as $field)@error($field)<p class="bad-text" role="alert">{{ $message }}</p>@enderror @endforeach
    @endcan
    @if(count($marks) > 0)<x-table name="Marked times" :sorts="false"><thead><tr><th scope="col">From</th><th scope="col">Until</th>
        <th scope="col">What it was</th><th scope="col">Said by</th>@can('alert')<th scope="col"><span
        class="visually-hidden">Act</span></th>@endcan</tr></thead><tbody>@foreach($marks as $mark)<tr data-row>
        <td class="nowrap">{{ moment($mark->from_at * 1_000_000, MomentStyle::Minute, $zone) }}</td>
        <td class="nowrap">{{ moment($mark->to_at * 1_000_000, MomentStyle::Minute, $zone) }}</td><td>{{ $mark->name }}</td>
        <td>{{ $mark->made_by }}</td>@can('alert')<td><form class="inline" method="post" action="{{ address('mark.remove', $mark->id)
        }}">@csrf<button class="plain">Remove<span class="visually-hidden"> {{ $mark->name }}</span></button></form></td>@endcan
        </tr>@endforeach</tbody></x-table>@endif
    @endif
</div>
</x-layout>
