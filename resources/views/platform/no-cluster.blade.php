<x-layout title="Statements" bench="tune" sub="statements">
    <div class="reading empty"><h1>No cluster is known yet</h1>
    <p>Telemetry belongs to a cluster. <a href="{{ address('cluster.create') }}">Add one</a>, then connect it or import its files.</p></div>
</x-layout>
