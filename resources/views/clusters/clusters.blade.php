@php
    use App\Platform\Support\MomentStyle; use Fulcrion\Core\Text\Quantity;
    $failing = $clusters->whereNotNull('failing_since');
@endphp
<x-layout title="Clusters" bench="tend">
<div class="reading">
    <h1>{{ $clusters->count() }} {{ Str::plural('cluster', $clusters->count()) }} watched{{
        $failing->isEmpty() ? '' : '; '.$failing->pluck('name')->implode(', ').' cannot be read' }}</h1>
    <div hx-get="{{ address('cluster.lines') }}?{{ http_build_query(request()->only('at')) }}" hx-trigger="load" hx-swap="outerHTML">
        <p class="quiet">Looking at all clusters …</p></div>
    <h2>Telemetry</h2>
    @can('connect')<div class="tools"><a href="{{ address('cluster.create') }}">Add a cluster</a></div>@endcan
    <x-table name="Clusters">
        <thead><tr><th scope="col">Cluster</th><th scope="col">Role</th><th scope="col">Telemetry from</th><th scope="col">State</th>
        <th scope="col" class="n">Statements</th><th scope="col">Last execution</th><th scope="col">Last reading</th></tr></thead>
        <tbody>
        @foreach($clusters as $cluster)
            @php($mine = $seen[$cluster->id] ?? null)
            <tr data-row>
                <td class="nowrap">@can('connect')<a href="{{ address('cluster.edit', $cluster->slug) }}">{{ $cluster->name }}</a>@else{{
                    $cluster->name }}@endcan<br><a class="small" href="{{ address('statements.index') }}?cluster={{
                    $cluster->slug }}">its statements</a>@can('connect') · <a class="small" href="{{ address('setup.show', $cluster->slug)
                    }}">monitoring</a>@endcan</td>
                <td>{{ $cluster->role }}</td>
                <td>{{ $cluster->isLive() ? "live MariaDB, every {$cluster->interval_seconds} s" : ($cluster->connector === 'practice'
                    ? 'practice cluster, files and HTTP' : 'files and HTTP') }}</td>
                <td>@if($cluster->failing_since)<x-state is="act">cannot be read</x-state><div class="small">{{
                    $cluster->last_error }} Since {{ moment($cluster->failing_since)
                    }}; tried again at each interval, counters go on from the last reading.</div>@elseif($cluster->paused)<x-state
                    is="no data">paused</x-state>@elseif($cluster->isLive() && ! $cluster->polled_at)<x-state
                    is="no data">not read yet</x-state>@elseif($cluster->isSilent())<x-state is="no data">silent</x-state><div
                    class="small">Not read since {{ moment($cluster->polled_at) }}; see whether the scheduler runs.</div>@elseif(
                    ($waiting[$cluster->id]['act'] ?? 0) + ($waiting[$cluster->id]['watch'] ?? 0) > 0)<x-state
                    :is="isset($waiting[$cluster->id]['act']) ? 'act' : 'watch'"><a href="{{ address('finding.index')
                    }}?cluster={{ $cluster->slug }}">{{ $waiting[$cluster->id]['act'] ?? $waiting[$cluster->id]['watch'] }} {{
                    Str::plural('finding', $waiting[$cluster->id]['act'] ?? $waiting[$cluster->id]['watch'])
                    }}</a></x-state>@elseif(! $mine)<x-state is="no data" />@else<x-state is="calm" />@endif</td>
                <td class="n">{{ Quantity::count((int) ($mine->statements ?? 0)) }}</td>
                <td class="nowrap">{{ $mine ? moment($mine->last_us, MomentStyle::Second) : Quantity::NONE }}</td>
                <td>@if($cluster->polled_at){{ moment($cluster->polled_at, MomentStyle::Clock) }}: {{
                    Quantity::count($cluster->last_poll['executions'] ?? 0) }} executions in {{
                    Quantity::count($cluster->last_poll['digests'] ?? 0) }} digests, took {{
                    Quantity::duration(1000 * ($cluster->last_poll['tookMs'] ?? 0)) }}@else{{ Quantity::NONE }}@endif</td>
            </tr>
        @endforeach
        </tbody>
    </x-table>
</div>
</x-layout>
