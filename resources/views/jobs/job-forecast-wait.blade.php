<div id="job-forecast" hx-get="{{ address('job.forecast', $run->id) }}" hx-trigger="load delay:{{
    $run->forecast === null && $run->tasks > App\Jobs\Models\JobRun::AT_ONCE ? '2s' : '1ms' }}" hx-swap="outerHTML"><p class="notice"
    role="status">Drawing other distribution, looking for a changing number of workers, reckoning the next run…</p></div>
