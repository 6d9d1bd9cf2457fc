@php use Fulcrion\Core\Text\Quantity; @endphp
<x-layout title="Maintenance" bench="tune" sub="layout">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('layout.index') }}">Layout</a></p>
    <h1>{{ $plans->isEmpty() ? 'No table has a maintenance schedule yet' : $plans->count().' '.Str::plural('table',
        $plans->count()).' '.($plans->count() === 1 ? 'is' : 'are').' kept in order by schedule; '.$runs->where('dry',
        0)->count().' runs are on record' }}</h1>
    @if($plans->isEmpty())<x-empty>Schedules are set on the page of a table: which work, when or from which threshold on, and in
        which hours.</x-empty>@else
    <x-table name="Schedules" :export="false"><thead><tr><th scope="col">Table</th>
    <th scope="col">Does</th><th scope="col">When</th><th scope="col">Hours, UTC</th><th scope="col">Set by</th><th scope="col">Now</th>
    </tr></thead>
    <tbody>@foreach($plans as $plan)<tr data-row><td class="mono"><a href="{{ address('layout.show', [$plan->cluster->slug,
        $plan->object]) }}#maintenance">{{ $plan->object }}</a><br><span class="quiet small">{{ $plan->cluster->name }}</span></td>
        <td>{{ implode(', ', array_map(fn ($act) => App\Storage\Models\MaintenancePlan::ACTS[$act] ?? $act, $plan->acts)) }}</td>
        <td>{{ $plan->cron ?? 'when needed' }}{{ $plan->paused ? ', paused' : '' }}</td><td>{{ $plan->hours_from }} to {{
        $plan->hours_to }}</td><td>{{ $plan->made_by }}</td>
        <td>@can('run')<form method="post" action="{{ address('maintenance.run', $plan->id) }}">@csrf<button
            class="plain">run</button> <button
            class="plain" name="dry" value="1">dry run</button></form><form method="post" action="{{ address('maintenance.remove',
                $plan->id) }}">@csrf<button class="plain">remove</button></form>@endcan</td></tr>@endforeach</tbody></x-table>
    <h2>What was done</h2>
    @if($runs->isEmpty())<x-empty>Nothing yet. A dry run shows what would be done without writing.</x-empty>@else
    <x-table name="Runs" export="Maintenance"><thead><tr><th scope="col">When</th>
    <th scope="col">Table</th><th scope="col">Why</th><th scope="col">What</th><th scope="col" class="n">Chunks</th>
    <th scope="col" class="n">Stored bytes</th></tr></thead>
    <tbody>@foreach($runs as $run)<tr id="run-{{ $run->id }}"><td class="nowrap">{{ moment($run->started_us) }}{{
        $run->dry ? ' (dry)' : '' }}</td><td class="mono">{{ $run->object }}</td><td>{{ $run->why }}</td>
        <td>@foreach(json_decode($run->log) as [$act, $what])<p class="tight">{{ $what }}</p>@endforeach @if($run->error)<span
        class="bad-text">{{ $run->error }}</span>@endif</td>
        <td class="n">{{ Quantity::count($run->chunks_before) }}@if($run->chunks_after !== null && ! $run->dry) → {{
        Quantity::count($run->chunks_after) }}@endif</td>
        <td class="n">{{ Quantity::bytes($run->bytes_before) }}@if($run->bytes_after !== null && ! $run->dry) → {{
        Quantity::bytes($run->bytes_after) }}@endif</td></tr>@endforeach</tbody></x-table>@endif
    @endif
</div>
</x-layout>
