<x-table name="Errors and warnings">
    <thead><tr><th scope="col">Kind</th><th scope="col">Text</th><th scope="col" class="n">Times</th>
    <th scope="col">Last in the hour of</th></tr></thead>
    <tbody>
    @foreach($messages as $message)
        <tr><td>{{ str_replace('_', ' ', $message->severity) }}</td><td>{{ $message->text }}</td>
        <td class="n">{{ Fulcrion\Core\Text\Quantity::count((int) $message->occurrences) }}</td>
        <td>{{ moment($message->last_at * 1_000_000, zone: $scope->zone) }}</td></tr>
    @endforeach
    </tbody>
</x-table>
