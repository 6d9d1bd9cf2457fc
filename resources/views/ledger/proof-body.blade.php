@php
    use Fulcrion\Core\Text\Quantity; use App\Ledger\Proofs\ProofFigure;
@endphp
<table class="facts"><tbody>
    <tr><th scope="row">change</th><td>{{ $change->title }}</td></tr>
    <tr><th scope="row">made</th><td>{{ gmdate('Y-m-d H:i', intdiv($record->made_us, 1000000)) }} UTC, for {{ $record->made_by }}</td></tr>
    @foreach($record->conditions as $label => $value)<tr><th scope="row">{{ $label }}</th><td>{{ $value }}</td></tr>@endforeach
    <tr><th scope="row">results</th><td>{{ $record->body === 'access' ? 'both policies were asked the same questions' : ($record->body === 'written' ? ($record->holds ? 'every select gave what the policy says' : 'not every select gave what the policy says: see below') : '') }}{{ $record->body === 'job' ? ($record->kind === 'rehearsal' ? 'predicted; the next run will show' : ($record->holds ? 'the prediction held: within its range, or no more than 10% off' : 'the prediction did not hold')) : '' }}{{ $record->body !== 'time' ? '' : ($record->holds ? 'all equal that could be compared, none failed' : 'not all equal, or a statement failed: see below') }}</td></tr>
</tbody></table>
