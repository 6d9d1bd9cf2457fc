<x-report title="{{ $incident->title }}" :style="$style" :about="$about" :madeAt="$madeAt">
<h1>{{ $page['sentence'] }}</h1>
@include('alerts.incident-body', ['links' => false])
</x-report>
