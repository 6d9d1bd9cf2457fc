@php
    use Fulcrion\Core\Text\Quantity; use App\Ledger\Proofs\ProofFigure;
@endphp
<table class="facts"><tbody>
    <tr><th scope="row">change</th><td>{{ $change->title }}</td></tr>
    <tr><th scope="row">made</th><td>{{ gmdate('Y-m-d H:i', intdiv($record->made_us, 1000000)) }} UTC, for {{ $record->made_by }}</td></tr>
    @foreach($record->conditions as $label => $value)<tr><th scope="row">{{ $label }}</th><td>{{ $value }}</td></tr>@endforeach
    <tr><th scope="row">results</th><td>{{ $record->results() }}</td></tr>
</tbody></table>
