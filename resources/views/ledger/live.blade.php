@php use Fulcrion\Core\Text\Quantity; $q = fn (array $v) => $v[1] === null ? Quantity::NONE
    : Quantity::duration($v[0]).' / '.Quantity::duration($v[1]).' / '.Quantity::duration($v[2]); @endphp
<h2>Since then, as it really runs</h2>
<x-table name="Live executions"><thead><tr>
<th scope="col">Statement</th><th scope="col" class="n">Runs before</th><th scope="col" class="n">Quartiles before</th>
<th scope="col" class="n">Runs since</th><th scope="col" class="n">Quartiles since</th><th scope="col">By the test</th>
<th scope="col" class="n">p</th></tr></thead>
<tbody>@foreach($live as $row)<tr><td class="mono small">{{ App\Platform\Support\Sql::line($row['text'], 90) }}</td>
<td class="n">{{ Quantity::count($row['test']->before) }}</td><td class="n">{{ $q($row['before']) }}</td>
<td class="n">{{ Quantity::count($row['test']->after) }}</td><td class="n">{{ $q($row['after']) }}</td>
<td><x-state :is="['better' => 'calm', 'worse' => 'act', 'no difference to be seen' => 'watch'][$row['test']->verdict()] ?? 'no data'">{{
$row['test']->verdict() }}</x-state></td><td class="n">{{ $row['test']->verdict() === 'too few executions' ? Quantity::NONE
: ($row['test']->p < 0.0001 ? '< 0.0001' : Quantity::count($row['test']->p, 4)) }}</td></tr>@endforeach</tbody></x-table>
<p class="quiet small">Durations of the executions on record in the seven days before and the days since, compared by the rank sum test
    of Mann and Whitney at the level of 1%, ties corrected. The five minutes in which the change was made count for neither side;
    below {{ Fulcrion\Core\Statistics\MannWhitney::LEAST }} runs on a side nothing is said.</p>
