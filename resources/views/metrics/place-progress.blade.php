@php use App\Metrics\Places\PlaceState; use Fulcrion\Core\Text\Quantity; @endphp
{{-- As it goes on: asked for every second until it is over, which the page is loaded again for. --}}
@if($place !== null && $place->state->isMoving() && $place->error === null)
<div id="place-progress" class="notice" role="status" hx-get="{{ address('place.show', $cluster->slug) }}" hx-trigger="every 1s"
    hx-swap="outerHTML">
    <p class="tight"><strong>{{ $place->state === PlaceState::Coming ? "Moving to {$place->said()}" : ($place->state === PlaceState::Leaving
        ? "Taking back from {$place->said()}" : "Taking away what is in {$place->said()}") }}</strong>:
        {{ Quantity::count($place->rows_moved) }} of {{ Quantity::count($place->rows_all) }} rows</p>
    <x-progress :of="$place->rows_all === 0 ? 0.0 : min(1.0, $place->rows_moved / $place->rows_all)" label="Progress" />
    @if($place->state !== PlaceState::Left)<form method="post" action="{{ address('place.back', $cluster->slug) }}">@csrf<button
        class="plain">Stop</button></form>@endif
</div>
@else
<div id="place-progress" data-reloads></div>
@endif
