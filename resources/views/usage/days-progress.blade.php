@if($run !== null && ! $run->isOver())
<div id="days-progress" class="notice" role="status" hx-get="{{ address('usage.days') }}" hx-trigger="every 1s" hx-swap="outerHTML">
    <p class="tight"><strong>Making days anew</strong>: {{ $run->progress }}{{ $run->stop_asked ? '; it is being stopped' : '' }}</p>
    <x-progress :of="$run->done_share" label="Progress" />
    @can('make-days')@unless($run->stop_asked)<form method="post" action="{{ address('usage.stop-days', $run->id) }}">@csrf<button
        class="plain">Stop</button></form>@endunless @endcan
</div>
@else
<div id="days-progress" data-reloads></div>
@endif
