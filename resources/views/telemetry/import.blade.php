<x-layout title="Import of {{ $import->file_name }}" bench="tune" sub="imports">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('import.index') }}">Imports</a> / {{ $import->file_name }}</p>
    @include('telemetry.import-progress')
</div>
</x-layout>
