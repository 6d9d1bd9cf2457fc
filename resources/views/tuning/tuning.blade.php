@php
    use Fulcrion\Core\Text\Quantity;
    $done = $runs->where('state', 'done')->first();
    $steps = $done?->steps['steps'] ?? [];
    $last = $steps === [] ? null : $steps[count($steps) - 1];
@endphp
<x-layout title="Tuning runs" bench="tune" sub="tuning">
<div class="reading">
    <h1>{{ $last === null ? 'No tuning run yet: it takes the worst statements through statistics, layout, rollups, lookups and encodings'
        : 'The last run brought '.$done->title.' from '.Quantity::duration($steps[0]['weekUs']).' a week to '
            .Quantity::duration($last['weekUs']).' (modelled)' }}</h1>
    @can('run')
    @if($cluster === null)<x-empty>There is no practice cluster to tune.</x-empty>@else
    <form class="form-grid" method="post" action="{{ address('tuning.start') }}">@csrf
        @if($errors->any())<p class="bad-text hint" role="alert">{{ $errors->first() }}</p>@endif
        <label for="tuning-cluster">Cluster</label><select class="form-select" id="tuning-cluster" name="cluster">@foreach($clusters
            as $each)<option value="{{ $each->slug }}" @selected($each->id === $cluster->id)>{{ $each->name }}</option>@endforeach</select>
        <span>Statements</span><div><label class="check"><input class="form-check-input" type="radio" name="which" value="worst"
            @checked(old('which', 'worst') === 'worst')> the worst ten of last week</label><label class="check"><input
            class="form-check-input" type="radio" name="which" value="chosen"
            @checked(old('which') === 'chosen')> those ticked below</label></div>
        <label for="tuning-minutes">At most, minutes</label><input class="form-control short" id="tuning-minutes" name="minutes"
            value="{{ old('minutes', 30) }}" inputmode="numeric">
        <label for="tuning-gib">Rewritten at most, GiB</label><input class="form-control short" id="tuning-gib" name="gib" value="{{
            old('gib', 200) }}" inputmode="decimal">
        <label for="tuning-when">When</label><div><select class="form-select" id="tuning-when" name="when">
        <option value="now">now</option><option value="night" @selected(old('when') === 'night')>at the hour below</option>
        </select> <input class="form-control short" name="at" value="{{ old('at', '02:00') }}" aria-label="Hour"></div>
        <span>Afterwards</span><div><label class="check"><input class="form-check-input" type="checkbox" name="apply" value="1"
            @checked(old('apply'))> apply what pays on the cluster itself, unattended</label><span
            class="quiet small">Without this every step that pays becomes a rehearsed change, to be approved one by one or all
            together.</span></div>
        <button class="btn btn-primary">Start the run</button>
        <details class="more hint" @if(old('which') === 'chosen') open @endif><summary>Heaviest statements of the last week</summary>
        <ul class="choose">@foreach($candidates as $one)<li><label class="check"><input class="form-check-input" type="checkbox"
        name="statements[]" value="{{ $one->fingerprint }}" @checked(in_array($one->fingerprint, (array) old('statements',
        request('statements', [])), true))> <span class="mono small">{{ App\Platform\Support\Sql::line($one->text, 120) }}</span> <span
        class="quiet small">{{ Quantity::duration($one->duration_us) }}</span></label></li>@endforeach</ul></details>
    </form>@endif
    @else<p class="quiet">Starting a run needs the role engineer.</p>@endcan
    <h2>Runs</h2>
    @if($runs->isEmpty())<x-empty>None yet.</x-empty>@else
    <x-table name="Runs" export="Tuning runs"><thead><tr>
    <th scope="col">Statements</th><th scope="col">State</th><th scope="col">Cluster</th><th scope="col" class="n">A week before</th>
    <th scope="col" class="n">after</th><th scope="col" class="n">Kept</th><th scope="col">Asked</th><th scope="col">By</th></tr></thead>
    <tbody>@foreach($runs as $run)@php $own = $run->steps['steps'] ?? []; @endphp<tr data-row><td><a href="{{ address('tuning.show',
        $run->id) }}">{{ $run->title }}</a></td><td><x-state :is="['done' => 'calm', 'failed' => 'act',
        'stopped' => 'no data'][$run->state] ?? 'watch'">{{ $run->state === 'planned' ? 'planned for '.moment($run->limits['atUs'])
        : $run->state }}</x-state></td><td>{{ $run->cluster->name }}</td>
        <td class="n">{{ $own === [] ? Quantity::NONE : Quantity::duration($own[0]['weekUs']) }}</td>
        <td class="n">{{ $own === [] ? Quantity::NONE : Quantity::duration($own[count($own) - 1]['weekUs']) }}</td>
        <td class="n">{{ max(0, count(array_filter($own, fn ($s) => $s['state'] === 'kept')) - 1) }}</td><td class="nowrap">{{
        moment($run->asked_us) }}</td><td>{{ $run->asked_by }}</td></tr>@endforeach</tbody></x-table>@endif
</div>
</x-layout>
