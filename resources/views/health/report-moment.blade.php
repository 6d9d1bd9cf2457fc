@php use App\Platform\Support\MomentStyle; @endphp
<x-report title="{{ $cluster->name }}, {{ moment($at * 1_000_000, MomentStyle::Minute, $zone) }}" :style="$style" :about="$about"
    :madeAt="$madeAt">
<h1>{{ moment($at * 1_000_000, MomentStyle::Minute, $zone) }}: {{ lcfirst($page['answer']->sentence) }}</h1>
@include('health.moment-body', ['links' => false])
</x-report>
