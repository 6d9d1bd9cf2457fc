@php use App\Platform\Support\MomentStyle; use Fulcrion\Core\Text\Quantity; @endphp
<x-layout title="Baseline" bench="tend" sub="baseline">
<div class="reading">
    @if($cluster !== null)
    <x-filters :to="address('baseline.show')">
    <div><label for="baseline-cluster">Cluster</label><select class="form-select" id="baseline-cluster" name="cluster">
        @foreach($clusters as $each)<option value="{{ $each->slug }}" @selected($each->id === $cluster->id)>{{
            $each->name }}</option>@endforeach</select></div>
    <div><label for="baseline-window">Busiest hour of, {{ $zone->getName() }}</label><input class="form-control" id="baseline-window"
        name="window" value="{{ $text }}" list="windows"><datalist id="windows"><option>last 24 hours</option><option>last 7 days</option>
        <option>last 28 days</option></datalist></div>
    <div><label for="baseline-other">Held against</label><select class="form-select" id="baseline-other" name="other">
        <option value="">no other cluster</option>@foreach($clusters as $each)@if($each->id !== $cluster->id)<option value="{{
        $each->slug }}" @selected($page['other']?->id === $each->id)>{{ $each->name }}</option>@endif @endforeach</select></div>
    </x-filters>
    @endif
    <h1>{{ $page['sentence'] ?? 'No cluster is watched yet' }}</h1>
    @if($complaint !== null)<div class="notice bad" role="alert">{{ $complaint }} The last 7 days are shown instead.</div>@endif
    @if($cluster?->connector === 'practice')<p><span class="scale">modelled</span> <span class="quiet small">The profile of a practice
        cluster plays its machines; what its nodes do is modelled too.</span></p>@endif
    @if($page !== null)
    @foreach($page['open'] as $run)@if($run->state === 'asked' || $run->state === 'sent')<div class="notice" role="status"><p
        class="tight">{{ $run->host }} {{ $run->state === 'asked' ? 'is measured when its agent comes by'
        : 'is being measured by its agent' }}; asked by {{
        $run->asked_by }}.</p>@can('measure')<form method="post" action="{{ address('baseline.stop', $run->id) }}">@csrf<button
        class="plain">Do not wait for it</button></form>@endcan</div>
        @elseif(! $run->isOver())@include('baseline.progress', ['run' => $run])
        @elseif($loop->first)<div class="notice bad" role="alert">{{ $run->host }}: {{ $run->error ?? 'the baseline was '
            .($run->outcome === 'refused' ? 'not measured' : 'broken off') }}. {{ implode(' ', $run->notes ?? []) }}</div>@endif @endforeach
    @if($page['figure'] !== null)<p class="quiet">Busiest hour: {{ moment($page['hour'] * 1_000_000, MomentStyle::Minute, $zone) }}, the one
        with most statements in flight. <a href="{{ address('cluster.time') }}?{{ http_build_query(['cluster' => $cluster->slug,
        'window' => moment($page['hour'] * 1_000_000, MomentStyle::Written, $zone).' to '.moment(($page['hour'] + 3600) * 1_000_000,
        MomentStyle::Written, $zone)]) }}">That hour</a></p>
    <x-figure :figure="$page['figure']" name="What was used of what the hardware can do" />@endif
    @if($page['measured'] !== [])<h2>What it can do</h2>
    <x-table name="Baselines"><thead><tr><th scope="col">Host</th><th scope="col">Measured</th>@foreach($page['resources'] as $one)<th
        scope="col" class="n" title="{{ $one->how() }}">{{ $one->label() }}</th>@endforeach</tr></thead><tbody>
        @foreach($page['measured'] as $host => $runs)<tr data-row><td class="nowrap">{{ $host }}</td><td class="nowrap">{{
        moment($runs[0]->at * 1_000_000, MomentStyle::Minute, $zone) }}{{ $runs[0]->outcome === 'complete' ? '' : ', '.$runs[0]->outcome }}
        </td>@foreach($page['resources'] as $one)@php $value = $runs[0]->values[$one->value] ?? null;
        $before = $runs[1]->values[$one->value] ?? null; $low = $page['low'][$host][$one->value] ?? null; @endphp
        <td @class(['n', 'off' => $low !== null])>{{ $value === null ? Quantity::NONE : $one->say($value) }}@if($low !== null)<br><span
        class="small">{{ Quantity::percent($low) }} of the others</span>@endif
        @if($value !== null && $before !== null && abs($value / $before - 1) > 0.05)<br><span
        class="quiet small">before: {{ $one->say($before) }}</span>@endif</td>@endforeach</tr>@endforeach
        @if($page['other'] !== null)<tr data-row><td>middle of {{ $cluster->name }}</td><td></td>@foreach($page['resources'] as $one)<td
        class="n">{{ isset($page['middles'][$one->value]) ? $one->say($page['middles'][$one->value]) : Quantity::NONE }}</td>@endforeach
        </tr><tr data-row><td>middle of {{ $page['other']->name }}</td><td></td>@foreach($page['resources'] as $one)<td class="n">{{
        isset($page['others'][$one->value]) ? $one->say($page['others'][$one->value]) : Quantity::NONE }}</td>@endforeach</tr>@endif
        </tbody></x-table>
    @foreach($page['measured'] as $host => $runs)@if(($runs[0]->notes ?? []) !== [])<p class="quiet small">{{ $host }}: {{
        implode(' ', $runs[0]->notes) }}</p>@endif @endforeach
    @endif
    @if($page['hosts'] === [])<x-empty>Nothing can be measured here: hosts are measured by their agent, started with
        <code>--baselines</code>.</x-empty>
    @else
    @can('measure')<h2>Measure</h2>
    <p class="quiet">By fio, sysbench and iperf3, only when somebody asks, and best while the warehouse is idle: for some seconds each tool
        takes all it can get. An agent keeps to the limits it was started with.</p>
    <form class="form-grid" method="post" action="{{ address('baseline.measure', $cluster->slug) }}">@csrf
        <label for="measure-host">Host</label><select class="form-select" id="measure-host" name="host">
        @if(count($page['hosts']) > 1)<option value="*">all {{ count($page['hosts']) }}</option>@endif
        @foreach($page['hosts'] as $one)<option @selected(old('host') === $one)>{{
        $one }}</option>@endforeach</select>@error('host')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        @if($cluster->connector === 'practice')<input type="hidden" name="seconds" value="1"><input type="hidden" name="space"
        value="16 MB"><input type="hidden" name="load" value="1">@else
        <label for="measure-seconds">Seconds for each tool</label><input class="form-control" id="measure-seconds" name="seconds"
        inputmode="numeric" value="{{ old('seconds', 5) }}">
        @error('seconds')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="measure-space">Space on the disk</label><input class="form-control" id="measure-space" name="space"
        value="{{ old('space', '256 MB') }}">@error('space')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="measure-load">Only below this load a processor</label><input class="form-control" id="measure-load" name="load"
        inputmode="decimal" value="{{ old('load', '0.5') }}">
        @error('load')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="measure-partner">Network to</label><input class="form-control" id="measure-partner" name="partner"
        placeholder="{{ $cluster->is_own ? 'itself' : 'nobody' }}" value="{{ old('partner') }}">
        @error('partner')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        @endif
        <span></span><div><button class="btn btn-primary">Measure it</button></div></form>@endcan
    @endif
    @endif
</div>
</x-layout>
