@php use App\Backup\Charts\BackupFigure; use App\Platform\Support\MomentStyle; use Fulcrion\Core\Text\Quantity; @endphp
<x-layout title="Backups" bench="tend" sub="backups">
<div class="reading">
    @if($cluster !== null)
    <x-filters :to="address('backup.show')">
    <div><label for="backup-cluster">Cluster</label><select class="form-select" id="backup-cluster" name="cluster">
        @foreach($clusters as $each)<option value="{{ $each->slug }}" @selected($each->id === $cluster->id)>{{
            $each->name }}</option>@endforeach</select></div>
    </x-filters>
    @endif
    <h1>{{ $page['sentence'] ?? 'No cluster is watched yet' }}</h1>
    @if($page !== null)
    @if($page['schemas'] === [])<x-empty>Whoever takes backups tells of them: a line a backup, below, or by a program to
        <code>/api/backups</code> with a token that may send metrics.</x-empty>
    @else
    <x-figure :figure="$page['figure']" name="Backups by schema and day" />
    <div class="tools"><a href="{{ address('alert.create') }}?{{ http_build_query(['cluster' => $cluster->slug, 'signal' => 'backup:age'])
        }}">Set an alert on their age</a><span class="quiet">{{ Quantity::bytes($page['kept']) }} are kept in all.</span></div>
    @if($page['check'] !== null && ! $page['check']->isOver())@include('backup.check-progress', ['run' => $page['check']])
    @elseif(($page['check']->error ?? null) !== null)<div class="notice bad" role="alert">{{ $page['check']->error }}</div>
    @elseif(($page['check']->result ?? null) !== null)<p class="notice" role="status">The last check read {{
        Quantity::bytes($page['check']->result['bytes']) }} in {{ Quantity::duration($page['check']->result['seconds'] * 1e6) }}: {{
        Quantity::count($page['check']->result['files']) }} {{ $page['check']->result['files'] === 1 ? 'file agrees' : 'files agree' }}, {{
        $page['check']->result['damaged'] === 0 ? 'none differs' : Quantity::count($page['check']->result['damaged']).' '
        .($page['check']->result['damaged'] === 1 ? 'does' : 'do').' not' }}.@if($page['check']->result['others'] > 0) {{
        Quantity::count($page['check']->result['others']) }} more in the folder {{ $page['check']->result['others'] === 1 ? 'is' : 'are'
        }} not in its list.@endif</p>@endif
    <h2>By schema</h2>
    <x-table name="Schemas"><thead><tr><th scope="col">Schema</th><th scope="col">Newest good backup</th><th scope="col" class="n">Age</th>
        <th scope="col" class="n">Usual</th><th scope="col">State</th><th scope="col">Last tried since</th></tr></thead><tbody>
        @foreach($page['schemas'] as $one)<tr data-row><td class="mono">{{ $one->schema }}</td>
        <td class="nowrap">{{ $one->newest() === null ? Quantity::NONE : moment($one->newest()->startedUs, MomentStyle::Minute) }}</td>
        <td class="n" data-sort="{{ $one->ageUs() ?? PHP_INT_MAX }}">{{ Quantity::duration($one->ageUs()) }}</td>
        <td class="n">{{ Quantity::duration($one->usualUs()) }}</td>
        <td><x-state :is="$one->isLate() ? 'act' : 'calm'">{{ $one->newest() === null ? 'none' : ($one->isLate() ? 'late' : 'in time')
        }}</x-state></td><td>{{ $one->lastTried() === null ? '' : moment($one->lastTried()->startedUs, MomentStyle::Minute).': '
        .($one->lastTried()->failure ?? ($one->lastTried()->damage[0] ?? 'not good')) }}</td></tr>@endforeach</tbody></x-table>
    <h2>The last four weeks</h2>
    <x-table name="Backups"><thead><tr><th scope="col">Began</th><th scope="col">Plan</th><th scope="col">Kind</th>
        <th scope="col">Schemas</th><th scope="col" class="n">Bytes</th><th scope="col" class="n">Took</th><th scope="col">State</th>
        <th scope="col">Place</th>@can('back-up')<th scope="col">Act</th>@endcan</tr></thead><tbody>
        @foreach($page['listed'] as [$one, $state, $isHere])<tr data-row>
        <td class="nowrap">{{ moment($one->startedUs, MomentStyle::Minute) }}</td><td>{{ $one->plan }}</td><td>{{ $one->kind->value }}</td>
        <td class="mono">{{ implode(', ', array_slice($one->schemas, 0, 6)) }}{{ count($one->schemas) > 6 ? ' and '
        .(count($one->schemas) - 6).' more' : '' }}</td><td class="n">{{ Quantity::bytes($one->bytes) }}</td>
        <td class="n">{{ Quantity::duration($one->endedUs - $one->startedUs) }}</td>
        <td>{!! BackupFigure::mark($state, $state->value) !!} {{ $state->value }}@if($one->trouble() !== ''): {{ $one->trouble() }}@endif
        @if($one->checkedUs !== null)<br><span class="quiet small">{{ $state->value === 'checked' ? '' : 'checked ' }}{{
        moment($one->checkedUs, MomentStyle::Minute) }}</span>@endif</td>
        <td class="mono small">{{ $one->place }}</td>
        @can('back-up')<td class="nowrap">@if($isHere && $one->failure === null)<form class="inline" method="post" action="{{
        address('backup.check', $one->id) }}">@csrf<button class="plain">Check</button></form> @endif
        <form class="inline" method="post" action="{{ address('backup.forget', $one->id) }}">@csrf<button
        class="plain">Forget</button></form></td>@endcan</tr>@endforeach</tbody></x-table>
    @can('back-up')<p class="quiet small">Files can be checked where their folder lies below those this installation opens
        (<code>FULCRION_LAKE</code>) and holds a list <code>SHA256SUMS</code>, as sha256sum writes it. Forgetting takes the entry away,
        never the files.</p>@endcan
    @endif
    @can('back-up')<h2>A log of backups</h2>
    <form class="form-grid" method="post" action="{{ address('backup.keep', $cluster->slug) }}" enctype="multipart/form-data">@csrf
        <label for="backup-log">Log</label><input class="form-control" type="file" id="backup-log" name="log">
        @error('log')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <span></span><div><button class="btn btn-line">Read it</button> <span class="quiet small">CSV with plan, schemas, started and ended,
        or JSON with these, a line a backup; kind, bytes, place, failed and removed where they are known.</span></div></form>@endcan
    @endif
</div>
</x-layout>
