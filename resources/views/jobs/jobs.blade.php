@php
    use Fulcrion\Core\Text\Quantity; use App\Jobs\Application\JobFindings; use App\Jobs\Application\JobList;
    $sorts = fn (string $key): string => address('job.index').'?'.http_build_query(array_filter(['cluster' => $list->cluster,
        'sort' => $key === 'saves' ? '' : $key]));
    $head = function (string $key, string $text, bool $n = false) use ($list, $sorts) { return '<th scope="col"'.($n ? ' class="n"'
        : '').($list->sort === $key ? ' aria-sort="'.($key === 'name' ? 'ascending' : 'descending').'"'
        : '').'><a href="'.e($sorts($key)).'" title="Sort by '.e(strtolower($text)).'">'.e($text).'</a></th>'; };
@endphp
<x-layout title="Jobs" bench="tune" sub="jobs">
<div class="reading">
    <h1>{{ $list->sentence() }}</h1>
    @if($list->clusters->count() > 1 && $list->rows !== [])<x-filters :to="address('job.index')">
    <div><label for="jobs-cluster">Cluster</label><select class="form-select" id="jobs-cluster" name="cluster" data-submits>
    <option value="">all</option>@foreach($list->clusters as $cluster)<option value="{{
    $cluster->slug }}" @selected($cluster->slug === $list->cluster)>{{ $cluster->name }}</option>@endforeach</select>
    </div></x-filters>@endif
    @if($list->rows !== [])
    <x-table name="Jobs" class="jobs-table">
        <thead><tr>{!! $head('name', 'Job') !!}<th scope="col">State</th>{!! $head('last', 'Last run') !!}{!! $head('took', 'Took',
            true) !!}<th scope="col" class="n">Workers</th>{!! $head('cost', 'Cost', true) !!}{!! $head('idle', 'Idle of it',
            true) !!}<th scope="col">Deadline</th><th scope="col" class="n">Would fit</th>{!! $head('saves', 'Would save',
            true) !!}<th scope="col">What is wrong</th></tr></thead>
        <tbody>@foreach($list->rows as $row)@php $run = $row['run']; $late = $run->isLate(); $acts = array_filter($row['troubles'], fn
            ($t) => $t[2]); @endphp
        <tr data-row><td><a class="nowrap" href="{{ address('job.show', $run->id) }}">{{
            $row['series']->name }}</a><div class="quiet small">{{
            $row['series']->cluster->name }}</div></td>
            <td><x-state :is="$row['running'] !== null ? 'watch' : ($acts !== [] ? 'act' : ($row['troubles'] !== [] ? 'watch'
                : 'calm'))">{{ $row['running'] !== null ? 'running' : $run->state }}</x-state>@if($row['running'] !== null
                && $row['running']->id !== $run->id)<div><a class="small" href="{{ address('job.show',
                    $row['running']->id) }}">watch it</a></div>@endif</td>
            <td class="nowrap">{{ moment($run->started_us) }}</td><td class="n">{{ Quantity::duration($run->elapsedUs()) }}</td>
            <td class="n">{{ Quantity::count($run->workers) }}</td><td class="n">{{ JobFindings::money($run->cost(), $run) }}</td>
            <td class="n">{{ JobFindings::money($run->idle_share * $run->cost(), $run) }}<div class="quiet small">{{
            Quantity::percent($run->idle_share) }}</div></td>
            <td class="nowrap">@if($late === null)<span class="quiet">none</span>@elseif($late)<span
                class="bad-text">late</span>@else met @endif</td>
            <td class="n">{{ $run->best_workers === null ? Quantity::NONE : Quantity::count($run->best_workers) }}</td>
            <td class="n">{{ JobList::saves($run) < 0.005 ? Quantity::NONE : JobFindings::money(JobList::saves($run), $run) }}</td>
            <td class="problem">@foreach(array_slice($row['troubles'], 0, 3) as $trouble)<div>{{
                ucfirst($trouble[1]) }}</div>@endforeach @if($row['troubles'] === [])<span class="quiet">{{
                $run->state === 'running' ? 'not judged before its end' : 'nothing' }}</span>@endif</td></tr>@endforeach</tbody>
    </x-table>
    <p class="quiet small">Would fit: the number of workers that fits what is wanted of the job, computed from its last run alone. Cost
        counts every reserved worker for the whole run.</p>
    @else<x-empty>Bring a record below, or let your batch system send one: <code>POST /api/jobs</code> with the token of a
        cluster.</x-empty>@endif
    @can('import')
    <h2>Bring a record</h2>
    <form class="filters" method="post" action="{{ address('job.store') }}" enctype="multipart/form-data" x-data="upload"
        @@submit="send">@csrf
        <div><label for="job-cluster">Cluster it ran on</label><select class="form-select" id="job-cluster"
            name="cluster">@foreach($list->clusters as $cluster)<option value="{{ $cluster->slug }}">{{
            $cluster->name }}</option>@endforeach</select></div>
        <div><label for="job-file">File: job as JSON, tasks as CSV, or OTLP JSON; plain or gzip</label><input class="form-control"
            id="job-file" type="file" name="file" required></div>
        <div><label for="job-workers">Workers, if the file is silent</label><input class="form-control short" id="job-workers"
            name="workers" inputmode="numeric" value="{{ old('workers') }}"></div>
        <div><label for="job-price">Price of one for an hour</label><input class="form-control short" id="job-price" name="worker_price"
            inputmode="decimal" value="{{ old('worker_price') }}"></div>
        <button class="btn btn-primary" x-show="idle">Read it</button>
        <span x-cloak x-show="sending"><span x-text="said"></span> <button type="button" class="btn btn-line"
            @@click="stop">Stop</button></span>
        <span class="bad-text" role="alert" x-text="failed"></span>
        @if($errors->any())<span class="bad-text" role="alert">{{ $errors->first() }}</span>@endif
    </form>
    <p class="quiet small">On the server: <code>./fulcrion artisan jobs:import FILE --cluster=NAME</code>. The formats are described in
        docs/formats/job.md.</p>
    @endcan
    @if($list->records->isNotEmpty())<h2>Records that are no runs yet</h2>
    <x-table name="Records" :export="false"><thead><tr><th scope="col">File</th>
    <th scope="col">Cluster</th><th scope="col">State</th><th scope="col">Sent</th><th scope="col">By</th><th scope="col">Why</th></tr>
    </thead><tbody>@foreach($list->records as $run)<tr data-row><td><a class="nowrap" href="{{ address('job.show', $run->id) }}">{{
    $run->file_name }}</a></td><td>{{ $run->cluster->name }}</td><td><x-state :is="$run->mark()">{{ $run->state }}</x-state></td>
    <td class="nowrap">{{ moment($run->asked_us) }}</td><td>{{ $run->asked_by }}</td><td class="problem">{{
    $run->problems[0] ?? $run->progress }}</td></tr>@endforeach</tbody></x-table>@endif
</div>
</x-layout>
