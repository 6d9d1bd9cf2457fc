@if(($record->unmeasured ?? []) !== [])
<h2>Not measured</h2>
<p class="quiet">{{ count($record->unmeasured) === 1 ? 'One other statement uses' : count($record->unmeasured).' other statements use' }} {{
    $change->object }} and {{ count($record->unmeasured) === 1 ? 'is' : 'are' }} not in the comparison.</p>
<x-table name="Statements that were not measured" export="Not measured"><thead><tr><th scope="col">Statement</th><th scope="col"
    class="n">Executions a week</th><th scope="col">Why</th></tr></thead>
    <tbody>@foreach($record->unmeasured as $one)<tr><td class="statement"><span class="mono small" title="{{ $one['statement'] }}">{{
    $one['statement'] === '' ? '' : substr($one['statement'], 0, 8).': ' }}{{ mb_strimwidth($one['text'], 0, 150, '…') }}</span></td>
    <td class="n">{{ $one['executions'] === null ? Fulcrion\Core\Text\Quantity::NONE
        : Fulcrion\Core\Text\Quantity::count((int) round($one['executions'])) }}</td><td>{{ $one['reason'] }}</td></tr>@endforeach</tbody>
</x-table>
@endif
