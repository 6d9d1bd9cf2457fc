@php use Fulcrion\Core\Text\Quantity; @endphp
<h2>Statements, before and after all steps</h2>
<x-table name="Statements"><thead><tr>
<th scope="col">Statement</th><th scope="col" class="n">A week</th><th scope="col" class="n">Before</th>
<th scope="col" class="n">After</th><th scope="col" class="n">Times less</th><th scope="col" class="n">Read before</th>
<th scope="col" class="n">after</th><th scope="col">Answers</th></tr></thead>
<tbody>@foreach($lines as $line)<tr data-row><td class="statement mono small">{{ substr($line['id'], 0, 8) }}: {{
    App\Platform\Support\Sql::line($line['text'], 110) }}</td>
    <td class="n">{{ Quantity::count(round($line['executions'])) }}</td>@if($line['error'] !== '')<td colspan="6"><span
    class="bad-text">{{ $line['error'] }}</span></td>@else<td class="n">{{ Quantity::duration($line['beforeUs']) }}</td>
    <td class="n">{{ Quantity::duration($line['afterUs']) }}</td><td class="n">{{ Quantity::digits($line['beforeUs'] / max(1,
    $line['afterUs'])) }}×</td><td class="n">{{ Quantity::bytes($line['beforeBytes']) }}</td>
    <td class="n">{{ Quantity::bytes($line['afterBytes']) }}</td><td>{{ $line['equal'] === null ? 'too many to compare' : ($line['equal']
    ? 'equal' : 'they differ') }}</td>@endif</tr>@endforeach</tbody></x-table>
