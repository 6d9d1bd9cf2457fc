@php use Fulcrion\Core\Text\Quantity; $all = max(1, collect($origins)->sum(fn ($origin) => (int) $origin->load_us)); @endphp
<x-table name="Who runs it">
    <thead><tr><th scope="col">User</th><th scope="col">Application</th><th scope="col">From</th><th scope="col">Database</th>
    <th scope="col" class="n">Runs</th><th scope="col" class="n">Mean</th><th scope="col" class="n">Time</th>
    <th scope="col" class="n">Share</th><th scope="col" class="n">Failed</th></tr></thead>
    <tbody>
    @foreach($origins as $origin)
        <tr><td>{{ $origin->user_name ?: '(none)' }}</td><td>{{ $origin->application ?: '(none)' }}</td>
        <td>{{ $origin->client_host ?: '(none)' }}</td><td>{{ $origin->database_name ?: '(none)' }}</td>
            <td class="n">{{ Quantity::count((int) $origin->executions) }}</td>
            <td class="n">{{ Quantity::duration($origin->executions > 0 ? $origin->duration_us / $origin->executions : null) }}</td>
            <td class="n">{{ Quantity::duration((int) $origin->load_us) }}</td>
            <td class="n">{{ Quantity::percent($origin->load_us / $all) }}</td>
            <td class="n">{{ Quantity::count((int) $origin->errors) }}</td></tr>
    @endforeach
    </tbody>
</x-table>
