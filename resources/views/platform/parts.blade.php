<x-layout title="Fulcrion itself" bench="tend" sub="parts">
<div class="reading">
    <h1>{{ $sentence }}</h1>
    <x-table name="Parts" :sorts="false"><thead><tr><th scope="col">Part</th><th scope="col">State</th>
    <th scope="col">What it says</th></tr></thead><tbody>@foreach($parts as $name => $part)<tr data-row><td>{{ $name }}</td>
    <td><x-state :is="$part->mark">{{ match ($part->mark) {
        'calm' => 'works', 'watch' => 'to be watched', 'act' => 'needs somebody', default => 'not known' } }}</x-state></td>
        <td>{{ $part->said }}</td></tr>@endforeach</tbody></x-table>
    <p class="quiet small">Machines ask <code>{{ url('/up') }}</code>, with <code>Accept: application/json</code> for each part, and read
        its measures as OpenMetrics text from <code>{{ url('/api/own-metrics') }}</code> with a token that may.</p>
</div>
</x-layout>
