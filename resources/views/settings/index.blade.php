@php
    use App\Platform\Support\MomentStyle; use Fulcrion\Core\Settings\SettingCommand; use Fulcrion\Core\Settings\SettingState;
    $at = $at ?? null;
@endphp
<x-layout title="Settings" bench="tend" sub="settings">
<div class="reading">
    @if($cluster !== null)
    <x-filters :to="address('setting.index')">
    <div><label for="setting-cluster">Cluster</label><select class="form-select" id="setting-cluster" name="cluster">
        @foreach($clusters as $each)<option value="{{ $each->slug }}" @selected($each->id === $cluster->id)>{{
            $each->name }}</option>@endforeach</select></div>
    <div><label for="setting-at">As it was on</label><input class="form-control" id="setting-at" name="at" value="{{ $then }}"
        placeholder="now" list="setting-days"><datalist id="setting-days"><option>yesterday</option><option>last monday</option></datalist>
    </div>
    <div><label for="setting-window">Changes in, {{ $zone->getName() }}</label><input class="form-control" id="setting-window"
        name="window" value="{{ $text }}" list="windows"><datalist id="windows"><option>last 24 hours</option><option>last 7 days</option>
        <option>last 28 days</option></datalist></div>
    <div><label for="setting-name">Settings with</label><input class="form-control" id="setting-name" name="name" value="{{ $name }}"
        placeholder="those that are desired"></div>
    </x-filters>
    @endif
    <h1>{{ $page['sentence'] ?? 'No cluster is watched yet' }}{{ $page !== null && $at !== null ? ', as of '.moment($at * 1_000_000,
        MomentStyle::Minute, $zone) : '' }}</h1>
    @if($complaint !== '')<div class="notice bad" role="alert">{{ $complaint }}</div>@endif
    @if($cluster?->connector === 'practice')<p><span class="scale">modelled</span> <span class="quiet small">Nodes of a practice cluster
        are set as its profile says; a change sets them for real there.</span></p>@endif
    @if($page === null || $page['table']->hosts === [])<x-empty>Hosts tell their settings by the agent, and servers by the account that
        watches them. @if($cluster !== null)<a href="{{ address('source.index') }}">Read a host</a>.@endif</x-empty>
    @else
    <x-figure :figure="$page['figure']" name="Settings in which hosts differ" />
    <div class="tools">@can('setting')<form class="inline" method="post" action="{{ address('setting.read', $cluster->slug) }}">@csrf<button
        class="btn btn-line">Read them now</button></form>@endcan <a href="{{ address('setting.profile', $cluster->slug) }}">How they should
        be: {{ $page['profile']->name }}</a> <span class="quiet">{{ $page['saved'] === null ? 'the profile that ships with Fulcrion'
        : 'saved by '.$page['saved']['by'].', '.moment($page['saved']['us'], MomentStyle::Minute, $zone) }}</span></div>
    @if($page['drift'] !== [])<h2>Not as desired</h2>
    <x-table name="Settings that are not as desired"><thead><tr><th scope="col">Host</th><th scope="col">Setting</th>
        <th scope="col">Is</th><th scope="col">Desired</th><th scope="col">Why</th>@can('setting')<th scope="col"><span
        class="visually-hidden">Act</span></th>@endcan</tr></thead><tbody>
        @foreach($page['drift'] as $host => $rows)@foreach($rows as $place => $row)<tr data-row><td class="nowrap">{{ $host }}</td>
        <td class="mono">{{ $row->name }}</td><td class="mono off">{{ $row->values[$host] }}</td>
        <td class="mono">{{ $row->desired->said() }}</td><td>{{ $row->desired->reason }} <span class="quiet small">{{ $row->desired->rule
        }}</span></td>@can('setting')<td class="nowrap">@if($at === null)<form class="inline" method="post" action="{{
        address('setting.propose',
        $cluster->slug) }}">@csrf<input type="hidden" name="host" value="{{ $host }}"><input type="hidden" name="setting" value="{{
        $row->name }}"><button class="plain">Propose a change<span class="visually-hidden"> of {{ $row->name }} on {{ $host
        }}</span></button></form>@endif</td>@endcan</tr>@endforeach @endforeach</tbody></x-table>
    @can('setting')@if($at === null)<div class="tools">@foreach(array_slice($page['drift'], 0, 6) as $host => $rows)
        @if(count($rows) > 1)<form class="inline" method="post" action="{{ address('setting.propose', $cluster->slug) }}">@csrf<input
        type="hidden" name="host" value="{{
        $host }}"><button class="btn btn-line">Set all {{ count($rows) }} of {{ $host }} as desired</button></form>@endif
        @endforeach</div>@endif @endcan
    <details><summary>Commands, to run by hand</summary><pre class="sql" tabindex="0">@foreach($page['drift'] as $host => $rows)
# {{ $host }}
@foreach($rows as $row){{ SettingCommand::of($row->name, $row->desired->target($row->values[$host])) }}
@endforeach @endforeach</pre><p class="quiet small">Run as root. They hold until the next start; the table of the change says where each is
        written down for good.</p></details>
    @endif
    @if($page['changes']->isNotEmpty())<h2>Changes</h2><ul class="choose">@foreach($page['changes'] as $change)<li data-row><a
        href="{{ address('change.show', $change->id) }}">{{ $change->title }}</a> <x-state :is="$change->mark()">{{
        $change->state->value }}</x-state></li>@endforeach</ul>@endif
    <h2>Otherwise since, {{ $text }}</h2>
    @if($page['changed'] === [])<p class="quiet">No setting became otherwise in that time.</p>@else
    <x-table name="Settings that became otherwise"><thead><tr><th scope="col">Read first</th><th scope="col">Host</th>
        <th scope="col">Setting</th><th scope="col">Before</th><th scope="col">Then</th></tr></thead><tbody>
        @foreach($page['changed'] as $row)<tr data-row><td class="nowrap"><a href="{{ address('moment.show') }}?{{ http_build_query([
        'cluster' => $cluster->slug, 'at' => moment($row->from_at * 1_000_000, MomentStyle::Written, $zone)]) }}">{{
        moment($row->from_at * 1_000_000,
        MomentStyle::Minute, $zone) }}</a></td><td>{{ $row->host }}</td><td class="mono">{{ $row->name }}</td><td class="mono">{{
        $row->before ?? 'not known' }}</td><td class="mono">{{ $row->after ?? 'not told any more' }}</td></tr>@endforeach</tbody></x-table>
    @endif
    <h2>{{ $name === '' ? 'What is desired' : 'Settings with '.$name }}</h2>
    @if($page['rows'] === [])<p class="quiet">No setting has that in its name.</p>@else
    <x-table name="Settings"><thead><tr><th scope="col">Setting</th><th scope="col">Desired</th><th scope="col">Values</th>
        <th scope="col">Hosts as desired</th></tr></thead><tbody>@foreach($page['rows'] as $row)@php
        $values = array_count_values(array_filter($row->values, 'is_string'));
        $good = count(array_filter($row->states, fn ($state) => $state === SettingState::Desired)); @endphp
        <tr data-row><td class="mono">{{ $row->name }}</td><td class="mono">{{ $row->desired?->said() ?? 'anything' }}</td>
        <td class="mono">@foreach(array_slice($values, 0, 4, true) as $value => $count){{ Str::limit($value, 60) }}{{
            count($page['table']->hosts) > 1 ? ' × '.$count : '' }}@if(! $loop->last), @endif @endforeach{{
            count($values) > 4 ? ' and '.(count($values) - 4).' more' : '' }}</td>
        <td>{{ $row->desired === null ? '' : $good.' of '.count($row->states) }}</td></tr>@endforeach</tbody></x-table>@endif
    <p class="quiet small">Read last: @foreach($page['reads'] as $host => $parts)@if($loop->index < 20){{ $host }} {{ moment(max($parts)
        * 1_000_000, MomentStyle::Minute, $zone) }}{{ $loop->last ? '' : ',' }} @endif @endforeach</p>
    @endif
</div>
</x-layout>
