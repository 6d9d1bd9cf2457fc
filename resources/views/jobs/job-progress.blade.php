@if($run->isReading() || $run->isBeingJudged() || ($run->state === 'running' && ! ($run->tasks > 0 && ($waiting ?? false))))
<div id="job-progress" class="notice" role="status" hx-get="{{ address('job.show', $run->id.(($waiting ?? false) ? '?waiting=1' : '')) }}"
    hx-trigger="every 1s" hx-swap="outerHTML">
    <p class="tight"><strong>{{ $run->isBeingJudged() ? 'Read' : ($run->state === 'running' ? 'Running' : 'Reading') }}</strong>: {{
        $run->progress ?: 'its record comes in' }}{{ $run->stop_asked ? '; it is being stopped' : '' }}</p>
    @if($run->done_share > 0)<x-progress :of="$run->done_share" label="Progress" />@endif
    @can('import')@if($run->state === 'reading' && ! $run->stop_asked)<form method="post" action="{{ address('job.stop',
        $run->id) }}">@csrf<button class="plain">Stop</button></form>@endif @endcan
</div>
@else
<div id="job-progress" data-reloads></div>
@endif
