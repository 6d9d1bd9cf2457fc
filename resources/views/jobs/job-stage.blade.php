@php
    use Fulcrion\Core\Text\Quantity;
    $run = $page->run; $sum = collect($page->stages)->firstWhere('stage', $stage); $one = $run->stages[$stage];
    $sort = request()->query('sort', 'time');
    $head = fn (string $key, string $text): string => '<th scope="col" class="n"'.($sort === $key ? ' aria-sort="descending"'
        : '').'><a href="?sort='.$key.'" title="Sort by '.strtolower($text).'">'.$text.'</a></th>';
@endphp
<x-layout title="{{ $one['name'] }}, {{ $run->name }}" bench="tune" sub="jobs">
<div class="reading">
    <p class="trail"><a href="{{ address('job.index') }}">Jobs</a> / <a data-back href="{{ address('job.show', $run->id) }}">{{
        $run->name }}</a> / {{
        $one['name'] }}</p>
    <h1>{{ $one['name'] }}: {{ Quantity::count($sum['tasks']) }} {{ Str::plural('task', $sum['tasks']) }}, the middle one {{
        Quantity::duration($sum['medianUs']) }}, the slowest {{ Quantity::duration($sum['slowestUs']) }}; {{
        ($sum['push']['less']['savedUs'] ?? 0) > 0
        ? 'a fifth less of it would end the job '.Quantity::duration($sum['push']['less']['savedUs']).' sooner'
        : 'making it faster would not end the job sooner' }}</h1>
    <x-figure :figure="App\Jobs\Charts\StageFigure::draw($tasks)" name="Time against bytes" />
    <h2>Tasks</h2>
    <x-table name="Tasks"><thead><tr><th scope="col">Task</th>
    <th scope="col">Worker</th>{!! $head('start', 'Started at') !!}{!! $head('time', 'Took') !!}{!! $head('wait',
    'Waited') !!}{!! $head('bytes', 'Read') !!}<th scope="col" class="n">Rows</th>
    <th scope="col" class="n">Spilled</th>{!! $head('attempts', 'Attempts') !!}<th scope="col">State</th></tr></thead>
    <tbody>@foreach(array_slice($tasks, 0, App\Jobs\Application\JobPage::TASKS) as $task)<tr data-row><td class="mono small">{{
        $task['id'] }}</td><td class="mono small">{{ $task['worker'] }}</td><td class="n">{{ Quantity::duration($task['startUs']) }}</td>
        <td class="n">{{ Quantity::duration($task['tookUs']) }}</td><td class="n">{{ Quantity::duration($task['waitUs']) }}</td>
        <td class="n">{{ $task['bytes'] < 0 ? Quantity::NONE : Quantity::bytes($task['bytes']) }}</td>
        <td class="n">{{ $task['rows'] < 0 ? Quantity::NONE : Quantity::count($task['rows']) }}</td>
        <td class="n">{{ $task['spilled'] > 0 ? Quantity::bytes($task['spilled']) : Quantity::NONE }}</td>
        <td class="n">{{ $task['attempts'] }}</td><td>{{ $task['state'] }}</td></tr>@endforeach</tbody></x-table>
    @if(count($tasks) > App\Jobs\Application\JobPage::TASKS)<p class="quiet small">The first {{
        App\Jobs\Application\JobPage::TASKS }} of {{ Quantity::count(count($tasks)) }}; <a href="{{ address('job.export', [$run->id,
            'csv']) }}">take all as CSV</a>.</p>@endif
</div>
</x-layout>
