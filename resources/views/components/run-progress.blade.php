@props(['run', 'id', 'what', 'address', 'stop', 'ability' => 'run'])
{{-- Work in the background as it goes on: asked for every second until it is over, which the page is loaded again for. --}}
@if($run !== null && ! $run->isOver())
<div id="{{ $id }}" class="notice" role="status" hx-get="{{ $address }}" hx-trigger="every 1s" hx-swap="outerHTML">
    <p class="tight"><strong>{{ $what }}</strong>: {{ $run->progress }}{{ $run->stop_asked ? '; it is being stopped' : '' }}</p>
    <x-progress :of="$run->done_share" label="Progress" />
    @can($ability)@unless($run->stop_asked)<form method="post" action="{{ address($stop, $run->id) }}">@csrf<button
        class="plain">Stop</button></form>@endunless @endcan
</div>
@else
<div id="{{ $id }}" data-reloads></div>
@endif
