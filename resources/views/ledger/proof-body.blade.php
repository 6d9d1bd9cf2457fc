@php
    use Fulcrion\Core\Text\Quantity; use App\Ledger\Proofs\ProofFigure;
@endphp
<x-facts>
    <tr><th scope="row">change</th><td>{{ $change->title }}</td></tr>
    <tr><th scope="row">made</th><td>{{ utc($record->made_us) }}, for {{ $record->made_by }}</td></tr>
    @foreach($record->conditions as $label => $value)<tr><th scope="row">{{ $label }}</th><td>{{ $value }}</td></tr>@endforeach
    <tr><th scope="row">results</th><td>{{ $record->results() }}</td></tr>
    @if($promise !== '')<tr><th scope="row">worth</th><td>{{ $promise }}</td></tr>@endif
</x-facts>
