@if(! $run->isOver())
<div id="lab-progress" class="notice" role="status" hx-get="{{ address('encoding.show', $run->id) }}" hx-trigger="every 1s"
    hx-swap="outerHTML">
    <p class="tight"><strong>Storing the sample</strong>: {{ $run->progress }}{{ $run->stop_asked ? '; it is being stopped' : '' }}</p>
    <x-progress :of="$run->done_share" label="Progress" />
    @can('run')@unless($run->stop_asked)<form method="post" action="{{ address('encoding.stop', $run->id) }}">@csrf<button
        class="plain">Stop</button></form>@endunless @endcan
</div>
@else
<div id="lab-progress" data-reloads></div>
@endif
