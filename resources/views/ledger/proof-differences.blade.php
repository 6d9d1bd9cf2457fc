@php use Fulcrion\Core\Text\Quantity; @endphp
<h2>Rows that differ</h2>
@foreach($differences as $line => ['difference' => $difference, 'closed' => $closed])
<p><span class="mono small">{{ substr($proof->lines[$line]->statement, 0, 8) }}</span>:
@if($difference->onlyBefore === null)the answers have too many rows to lay side by side.
@else{{ Quantity::count($difference->onlyBefore) }} {{ $difference->onlyBefore === 1 ? 'row' : 'rows' }} only before, {{
    Quantity::count($difference->onlyAfter) }} only after.
@endif
@if($closed !== [])The rows are shown to those who see every value of {{ implode(', ', $closed) }}.@endif</p>
@if($difference->before !== [] || $difference->after !== [])
<x-table name="Rows that differ">
<thead><tr><th scope="col">Answered</th>@foreach($difference->columns as $column)<th scope="col">{{ $column }}</th>@endforeach</tr></thead>
<tbody>@foreach(['only before' => $difference->before, 'only after' => $difference->after] as $side => $rows)
@foreach($rows as $row)<tr><td class="nowrap quiet">{{ $side }}</td>@foreach($row as $value)<td>@if($value === null)<span
    class="quiet">NULL</span>@else{{ is_bool($value) ? ($value ? 'true' : 'false') : mb_strimwidth((string) $value, 0, 120,
    '…') }}@endif</td>@endforeach</tr>
@endforeach
@endforeach</tbody></x-table>
@if($difference->onlyBefore > count($difference->before) || $difference->onlyAfter > count($difference->after))<p
    class="small quiet">The first {{ Fulcrion\Core\Proofs\AnswerDifference::SHOWN }} of each side.</p>@endif
@endif
@endforeach
