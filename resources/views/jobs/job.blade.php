@php
    use Fulcrion\Core\Text\Quantity; use App\Jobs\Application\JobFindings; use App\Jobs\Charts\CurveFigure; use App\Jobs\Models\JobSeries;
    $run = $page->run; $facts = $page->facts(); $series = $run->series; $zone = auth()->user()->zone();
    $marks = $page->analysis['marks'] ?? []; $minutes = $page->minutes(); $nights = $page->nights(); $pinned = $page->pinned();
        $figure = $page->figure();
    $localDeadline = $series?->deadline === null ? '' : (new DateTimeImmutable("today {$series->deadline}",
        new DateTimeZone('UTC')))->setTimezone($zone)->format('H:i');
@endphp
<x-layout title="{{ $run->name }}" bench="tune" sub="jobs">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('job.index') }}">Jobs</a> / {{ $run->cluster->name }} / {{ $run->name }} / {{
        moment($run->started_us) }}</p>
    <h1>{{ $page->sentence() }}</h1>
    @if($run->state === 'running')@include('jobs.job-progress')@endif
    @unless($run->kept)<div class="notice" role="status">The tasks of this run are not kept any more; its figures are.</div>@endunless
    <p class="quiet small">{{ Quantity::count($run->tasks) }} tasks in {{ count($run->stages ?? []) }} stages, of {{
        $run->owner ?: 'somebody' }}; {{ $run->modelled ? 'run by a practice cluster, times are modelled'
        : 'times as recorded' }}@if($run->deadline_us >= 0); to end by {{ moment($run->deadline_us) }}@endif. @if($run->kept)<a
        data-key="c" href="{{ address('job.compare', $run->id) }}">Compare with another run</a> · Take it: <a href="{{
            address('job.export', [$run->id, 'json']) }}">JSON</a> <a href="{{ address('job.export', [$run->id,
            'csv']) }}">CSV of tasks</a> <a href="{{ address('job.export', [$run->id, 'trace']) }}">Trace Event JSON</a>@endif</p>
    @if($run->kept)
    <section class="score" data-score="{{ address('job.marks', $run->id) }}" data-zone="{{
        $zone->getName() }}" @if($run->state === 'running')
        data-growing @endif aria-label="Score">
        <div class="score-tools">
            <button type="button" class="btn btn-line" data-score-play aria-pressed="false">Play</button>
            <input type="range" class="form-range" min="0" max="1000" value="1000" data-score-scrub aria-label="Moment of the run">
            <label>Speed <select class="form-select" data-score-speed><option value="0.5">half</option>
            <option value="1" selected>30 s in all</option><option value="2">double</option><option value="4">fourfold</option>
            </select></label>
            <label>Tone <select class="form-select" data-score-tone><option value="time">time</option><option value="wait">wait</option>
            <option value="bytes_read">bytes read</option><option value="bytes_written">bytes written</option>
            <option value="rows">rows</option><option value="skew">skew</option></select></label>
        </div>
        <canvas data-score-canvas tabindex="0" role="img"
            aria-label="Score of the run: a stave a stage, a mark a task, the critical path inked. The table below has them."></canvas>
        <p class="reading-line" data-score-line aria-live="off"></p>
        <canvas data-score-workers role="img" aria-label="Workers at work at the moment of the playhead"></canvas>
        <p class="quiet small">A stave is a stage, a mark a task from its start to its end; where there are too many for a stave its
            height tells how many ran at once. Dark is much of the chosen tone. The line through is the critical path: {{
            Quantity::count(count($facts['path'] ?? [])) }} tasks, {{ Quantity::duration($facts['spanUs']
            ?? 0) }}. Click a stave to see what it waits for; <kbd>Space</kbd> plays, arrow keys move.</p>
    </section>
    @endif
    @if($page->hasCurve() && $run->kept)
    <h2 id="workers">Reserved and used</h2>
    <section class="hand" data-hand="{{ address('job.at', $run->id) }}" data-of='@json($page->script($zone->getName()))'>
        <p class="hand-line"><label for="hand-workers">Workers</label> <input class="form-control short" id="hand-workers" name="workers"
            value="{{ $page->hand }}" inputmode="numeric" data-hand-typed> <span data-hand-time></span> <span
            data-hand-cost></span> <span data-hand-idle></span> <span data-hand-ends></span> <span data-hand-chance></span> <span
            data-hand-minute></span> <span class="quiet" data-hand-how></span></p>
        <div class="scroll"><svg class="figure-svg hand-svg" viewBox="0 0 1180 250" role="group"
            aria-label="Workers reserved and used over time, and the modelled number in hand"></svg></div>
        <p class="choice-line"><label class="order">Order <select class="form-select" data-hand-order aria-label="Order of ready tasks">
        <option value="recorded">as recorded</option><option value="first-ready">first in, first out</option>
        <option value="longest-path">longest path first</option></select></label> @foreach($marks as $aim => $mark)<button type="button"
        class="plain" data-workers="{{ $mark['workers'] }}">{{ CurveFigure::NAMES[$aim] }}: {{
        Quantity::count($mark['workers']) }}</button> @endforeach<button type="button" class="plain" data-workers="{{
        $run->workers }}">this run: {{ Quantity::count($run->workers) }}</button></p>
        <p class="quiet small">Filled: workers at work, recorded. Hatched: paid and idle. Dashed: the number in hand, modelled by
            scheduling the recorded tasks again. Thin: how many tasks could run at once if nobody had to wait for a worker. Drag the
            grip, use arrow keys on it, or type.</p>
    </section>
    @can('run')
    @if($series !== null && $run->state === 'done')
    <form class="filters pin" method="post" action="{{ address('job.pin', $run->id) }}">@csrf
        <div><label for="pin-workers">Next run gets</label><input class="form-control short" id="pin-workers" name="workers" value="{{
            old('workers', $page->hand) }}" inputmode="numeric" data-hand-pin></div>
        <div class="wide"><label for="pin-reason">workers, because</label><input class="form-control" id="pin-reason" data-key="p"
            name="reason" value="{{ old('reason') }}" maxlength="200" placeholder="why this number"></div>
        <button class="btn btn-primary">Pin the decision</button>
        @if($errors->any())<span class="bad-text" role="alert">{{ $errors->first() }}</span>@endif
    </form>
    @endif
    @endcan
    @endif
    @if($pinned !== null)<p>Pinned: <a href="{{ address('change.show', $pinned->id) }}">{{ $pinned->title }}</a> ({{
        $pinned->state }}@if($pinned->latestProof('applied') !== null), <a href="{{ address('proof.show',
            $pinned->latestProof('applied')->id) }}">proved by the run after it</a>@else; the next run will prove it @endif).</p>@endif
    @if($series?->plan !== null && $run->state !== 'running')@can('run')<form method="post" action="{{ address('job.again',
        $run->id) }}">@csrf<button class="btn btn-line">Run it now with {{ Quantity::count($series->next_workers
        ?? $run->workers) }} workers</button> <span class="quiet small">on the practice cluster, in modelled time</span></form>@endcan
        @endif
    @if($figure !== null)
    <h2>Time against cost</h2>
    <x-figure :figure="$figure" name="Time against cost" />
    <details class="twin"><summary>What the next saved minute costs</summary>
    <x-table name="Next saved minute" class="narrow">
    <thead><tr><th scope="col" class="n">From workers</th><th scope="col" class="n">A minute sooner costs</th></tr></thead>
    <tbody>@foreach($minutes as $workers => $price)<tr><td class="n">{{ Quantity::count($workers) }}</td>
    <td class="n">{{ $price === null ? 'nothing gets faster' : JobFindings::money($price, $run) }}</td></tr>@endforeach</tbody></x-table>
    </details>
    @endif
    @can('run')@if($series !== null)
    <details class="more" @if($errors->hasAny(['aim', 'deadline', 'budget'])) open @endif><summary>What is wanted of this job: {{
        JobSeries::AIMS[$page->aim()] }}{{ $page->aim() === 'deadline' && $localDeadline !== '' ? ", by {$localDeadline}" : '' }}{{
        $page->aim() === 'budget' ? ', '.JobFindings::money($series->budget ?? 0, $run) : '' }}</summary>
    <form class="form-grid" method="post" action="{{ address('job.aim', $run->id) }}">@csrf
        <label for="aim">Wanted</label><select class="form-select" id="aim" name="aim">@foreach(JobSeries::AIMS as $key => $words)<option
            value="{{ $key }}" @selected($key === old('aim', $page->aim()))>{{ $words }}</option>@endforeach</select>
        <label for="aim-deadline">Ends by, {{ $zone->getName() }}</label><input class="form-control short" id="aim-deadline"
            name="deadline" value="{{ old('deadline', $localDeadline) }}" placeholder="04:00">
        <label for="aim-budget">A run may cost</label><input class="form-control short" id="aim-budget" name="budget" value="{{
            old('budget', $series->budget) }}" inputmode="decimal">
        <span></span><div><button class="btn btn-line">Keep</button></div>
    </form></details>@endif @endcan
    @if(($page->analysis['diagnoses'] ?? []) !== [])<h2>What is wrong</h2>
    @foreach($page->analysis['diagnoses'] as $d)<div class="advice"><h3><x-state :is="$d['act'] ? 'act' : 'watch'" /> {{
        $d['problem'] }}</h3><p>{{ $d['remedy'] }} @if($d['stage'] >= 0 && $run->kept)<a href="{{ address('job.stage', [$run->id,
            $d['stage']]) }}">Its tasks</a>@endif</p><details class="twin"><summary>Evidence</summary><x-facts>@foreach($d['evidence']
            as [$label, $value])<tr><th scope="row">{{ $label }}</th><td>{{ $value }}</td>
        </tr>@endforeach</x-facts></details></div>@endforeach
    @endif
    @if($page->hasCurve())@include('jobs.job-forecast-wait')@endif
    <h2>Where to push</h2>
    <x-table name="Stages"><thead><tr><th scope="col">Stage</th>
    <th scope="col" class="n">Tasks</th><th scope="col" class="n">Worker time</th><th scope="col" class="n">Share</th>
    <th scope="col" class="n">On the path</th><th scope="col" class="n">Middle task</th><th scope="col" class="n">Slowest</th>
    <th scope="col" class="n">Read</th><th scope="col" class="n">Waited</th><th scope="col" class="n">20% less</th>
    <th scope="col" class="n">Slow ones ordinary</th><th scope="col" class="n">Split evenly</th></tr></thead>
    <tbody>@foreach($page->stages as $s)<tr data-row><td>@if($run->kept)<a href="{{ address('job.stage', [$run->id, $s['stage']]) }}">{{
        $s['name'] }}</a>@else{{ $s['name'] }}@endif @if($s['failed'] > 0)<span class="bad-text small">{{
        $s['failed'] }} failed</span>@endif</td><td class="n">{{ Quantity::count($s['tasks']) }}</td>
        <td class="n">{{ Quantity::duration($s['workUs']) }}</td><td class="n">{{ Quantity::percent($s['workUs'] / max(1,
        $facts['workUs'])) }}</td><td class="n">{{ $s['onPathUs'] > 0 ? Quantity::duration($s['onPathUs']) : Quantity::NONE }}</td>
        <td class="n">{{ Quantity::duration($s['medianUs']) }}</td><td class="n">{{ Quantity::duration($s['slowestUs']) }}</td>
        <td class="n">{{ $s['bytesRead'] > 0 ? Quantity::bytes($s['bytesRead']) : Quantity::NONE }}</td>
        <td class="n">{{ Quantity::duration($s['queueUs']) }}</td>@foreach(['less', 'stragglers', 'even'] as $kind)<td class="n">{{
        isset($s['push'][$kind]) ? ($s['push'][$kind]['savedUs'] > 0 ? Quantity::duration($s['push'][$kind]['savedUs'])
        : ($s['push'][$kind]['savedUs'] < 0 ? Quantity::duration(-$s['push'][$kind]['savedUs']).' later' : 'nothing'))
        : Quantity::NONE }}</td>@endforeach</tr>@endforeach</tbody></x-table>
    <p class="quiet small">The last three columns: how much sooner the whole job would end if the stage took 20% less, if its slow tasks
        took what others with as much to read take, or if its input were split evenly, with {{ Quantity::count($page->analysis['workers']
        ?? $run->workers) }} workers; found by scheduling it again each time. A stage can be hot and not matter; later is possible, since
        with other times other tasks come first. @php $retry = collect($page->analysis['push'] ?? [])->firstWhere(0, 'retries');
        @endphp @if($retry)Without its {{ Quantity::count($facts['retries']) }} retries ({{
        Quantity::duration($facts['lostUs']) }} of worker time) it would end {{ Quantity::duration(max(0, $retry[3])) }} sooner.@endif</p>
    <h2>Facts</h2>
    <x-facts>
        <tr><th scope="row">work</th><td>{{ Quantity::duration($facts['workUs'] ?? 0) }} of worker time, in {{
            Quantity::count($facts['tasks'] ?? 0) }} tasks</td></tr>
        <tr><th scope="row">span</th><td>{{ Quantity::duration($facts['spanUs'] ?? 0) }}: no number of workers is faster</td></tr>
        <tr><th scope="row">mean parallelism</th><td>{{ Quantity::digits(($facts['workUs'] ?? 0) / max(1,
            $facts['spanUs'] ?? 1)) }} (work / span); at its widest {{
            Quantity::count($facts['width'] ?? 0) }} tasks could run at once</td></tr>
        <tr><th scope="row">paid</th><td>{{ Quantity::digits(round($run->workerHours(), 2)) }} worker hours{{
            $run->price !== null ? ', '.JobFindings::money($run->cost(), $run) : '' }}; idle {{
            Quantity::percent($run->idle_share) }}, {{ JobFindings::money($run->idle_share * $run->cost(),
            $run) }}; most at work at once {{ Quantity::count($facts['mostUsed'] ?? 0) }} of {{
            Quantity::count($facts['reserved'] ?? 0) }}</td></tr>
        <tr><th scope="row">waiting</th>
        <td>{{ Quantity::duration($facts['queueUs'] ?? 0) }} summed over tasks that were ready and found no worker</td></tr>
        <tr><th scope="row">retries</th><td>{{ Quantity::count($facts['retries'] ?? 0) }}, {{ Quantity::duration($facts['lostUs']
            ?? 0) }} of worker time ({{ JobFindings::money(($facts['lostUs'] ?? 0) / 3.6e9 * ($run->price ?? 1), $run) }})</td></tr>
        <tr><th scope="row">beside the tasks</th><td>a worker starts in {{ Quantity::duration($facts['startUpUs'] ?? 0) }} and takes {{
            Quantity::duration($facts['overheadUs'] ?? 0) }} between two tasks, both estimated from the record</td></tr>
        @if($page->hasCurve())<tr><th scope="row">model</th>
        <td>tasks {{ $page->analysis['order'] }}; with the recorded number of workers it gives {{
        Quantity::percent(abs($page->analysis['fit'])) }} {{ $page->analysis['fit'] < 0 ? 'less' : 'more' }} than the recorded time</td>
        </tr>@endif
        @if($run->predicted_us !== null)<tr><th scope="row">predicted from the run before</th>
        <td>{{ Quantity::duration($run->predicted_us) }}, off by {{ Quantity::percent(abs((float) $run->prediction_error)) }}</td>
        </tr>@endif
    </x-facts>
    @if($page->noticed() !== [])<h3>Noticed in the record</h3><ul class="findings">@foreach($page->noticed() as $one)<li>{{
        $one }}</li>@endforeach</ul>@endif
    @if(trim((string) $run->script) !== '')<h2>Script</h2>
    <x-table name="Script" :export="false" :sorts="false" class="script"><tbody>@foreach(preg_split('~\r?\n~',
        (string) $run->script) as $i => $line)@php $became = array_values(array_filter(array_keys($run->stages ?? []), fn ($n) =>
        $run->stages[$n]['lines'][0] <= $i + 1 && $i + 1 <= $run->stages[$n]['lines'][1])); @endphp<tr><th scope="row" class="n quiet">{{
        $i + 1 }}</th><td class="mono">{{ $line }}</td>
        <td class="small">@foreach($became as $n)@php $sum = collect($page->stages)->firstWhere('stage', $n); @endphp<a
        href="{{ address('job.stage', [$run->id, $n]) }}">{{ $run->stages[$n]['name'] }}</a> <span class="quiet">{{
        Quantity::duration($sum['workUs'] ?? 0) }}</span> @endforeach</td></tr>@endforeach</tbody></x-table>@endif
    @if(count($nights) > 1)<h2>Its runs</h2><x-figure :figure="App\Jobs\Charts\NightsFigure::draw($nights, $zone)" name="Runs" />@endif
    @can('import')@if($run->state !== 'running')<details class="more"><summary>Forget this run</summary>
    <form method="post" action="{{ address('job.forget', $run->id) }}">@csrf<p>Run {{ $run->id }} of {{
    $run->name }} and its tasks are taken out of the store. Proofs that rest on it stay.</p><button class="btn btn-line">Forget run {{
    $run->id }} of {{ $run->name }}</button></form></details>@endif @endcan
</div>
</x-layout>
