@if($change->doing !== null)
<div id="change-progress" class="notice" role="status" hx-get="{{ address('change.show', $change->id) }}" hx-trigger="every 1s"
    hx-swap="outerHTML">
    <p class="tight"><strong>{{ ucfirst($change->doing->value) }}</strong>: {{ $change->progress }}{{
        $change->stop_asked ? '; it is being stopped' : '' }}@if($change->isSilent()). No sign of life for a while: within a minute it is
        cleared away @endif</p>
    <x-progress :of="$change->done_share" label="Progress" />
    @can('run')@unless($change->stop_asked)<form method="post" action="{{ address('change.stop', $change->id) }}">@csrf<button
        class="plain">Stop</button></form>@endunless @endcan
</div>
@else
<div id="change-progress" data-reloads></div>
@endif
