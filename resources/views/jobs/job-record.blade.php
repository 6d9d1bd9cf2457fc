<x-layout title="Record {{ $run->file_name }}" bench="tune" sub="jobs">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('job.index') }}">Jobs</a> / {{ $run->cluster->name }} / {{
        $run->file_name ?: $run->name }}</p>
    <h1>{{ match(true) { $run->isBeingJudged() => "{$run->name} is being judged: ".Fulcrion\Core\Text\Quantity::count($run->tasks).
        ' tasks', $run->isReading()
        => "{$run->file_name} is being read", $run->state === 'running' => "{$run->name} is about to start", $run->state === 'stopped'
        => "Reading {$run->file_name} was stopped; nothing was kept", $run->state === 'reading'
        => "Reading {$run->file_name} broke off; nothing was kept", (string) $run->file_name === ''
        => "{$run->name} was held; nothing was run", default => ($run->file_name
        ?: $run->name)." was refused; nothing was kept" } }}</h1>
    @if($run->isReading() || $run->isBeingJudged() || $run->state === 'running')@include('jobs.job-progress', ['waiting' => true])@endif
    @if(($run->problems ?? []) !== [])<h2>{{ $run->state === 'refused' ? 'Why' : 'What was noticed' }}</h2>
    <ul class="findings">@foreach($run->problems as $problem)<li>{{ $problem }}</li>@endforeach</ul>
    @if((string) $run->file_name !== '')<p class="quiet small">At most fifty are told. Fix the file and send it again; the formats are
        described in docs/formats/job.md.</p>@endif @endif
    @can('import')@unless($run->isReading() || $run->isBeingJudged() || $run->state === 'running')<form method="post"
        action="{{ address('job.forget', $run->id) }}">@csrf<button class="btn btn-line">Forget it</button></form>@endunless @endcan
</div>
</x-layout>
