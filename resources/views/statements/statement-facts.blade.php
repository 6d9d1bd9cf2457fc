@php use Fulcrion\Core\Text\Quantity; use Fulcrion\Core\Telemetry\Fact; $runs = max(1, $row->sums['executions']); @endphp
<div class="columns">
<x-facts caption="Times">
    <tr><th scope="row">Executions</th><td class="n">{{ Quantity::count($row->sums['executions']) }}</td></tr>
    <tr><th scope="row">Time in the window</th><td class="n">{{ Quantity::duration($row->sums['load_us']) }}</td></tr>
    @if($worth !== '')<tr><th scope="row">Full cost at this rate (modelled)</th><td class="n">about {{ $worth }}</td></tr>@endif
    <tr><th scope="row">Least, mean, most</th><td class="n">{{ $row->sums['executions'] > 0 ? Quantity::duration($row->sums['min_us'])
        : Quantity::NONE }}, {{ Quantity::duration($row->meanUs()) }}, {{
        $row->sums['executions'] > 0 ? Quantity::duration($row->sums['max_us']) : Quantity::NONE }}</td></tr>
    <tr><th scope="row">p50, p95, p99</th><td class="n">{{ Quantity::duration($row->percentiles->p50Us) }}, {{
        Quantity::duration($row->percentiles->p95Us) }}, {{ Quantity::duration($row->percentiles->p99Us) }}</td></tr>
    <tr><th scope="row">Durations known singly</th><td class="n">{{ Quantity::count($row->percentiles->measured) }} of {{
        Quantity::count($row->sums['executions']) }}</td></tr>
    <tr><th scope="row">Lock time</th><td class="n">{{ Quantity::duration($row->known('lock_us', Fact::LOCK)) }}</td></tr>
    <tr><th scope="row">Queued</th><td class="n">{{ Quantity::duration($row->known('queued_us', Fact::QUEUED)) }}</td></tr>
    <tr><th scope="row">CPU time</th><td class="n">{{ Quantity::duration($row->known('cpu_us', Fact::CPU)) }}</td></tr>
</x-facts>
<x-table name="Work" class="facts" :export="false" :sorts="false">
    <thead><tr><th scope="col"><span class="visually-hidden">Work</span></th><th scope="col" class="n">in all</th>
    <th scope="col" class="n">a run</th></tr></thead>
    <tbody>
    @foreach(['rows_examined' => ['Rows examined', Fact::ROWS_EXAMINED, 'short'], 'rows_returned' => ['Rows returned',
        Fact::ROWS_RETURNED, 'short'], 'rows_affected' => ['Rows affected', Fact::ROWS_AFFECTED, 'short'],
        'bytes_scanned' => ['Bytes scanned', Fact::BYTES_SCANNED, 'bytes'], 'bytes_spilled' => ['Bytes spilled', Fact::BYTES_SPILLED,
        'bytes']] as $sum => [$label, $fact, $format])
        @php($value = $row->known($sum, $fact))
        <tr><th scope="row">{{ $label }}</th><td class="n">{{ Quantity::{$format}($value) }}</td>
        <td class="n">{{ Quantity::{$format}($value === null ? null : $value / $runs) }}</td></tr>
    @endforeach
    <tr><th scope="row">Examined per returned</th><td class="n">{{ Quantity::short($row->ratio() === null ? null : round($row->ratio(),
        1)) }}</td><td></td></tr>
    <tr><th scope="row">Errors, cancelled, timed out</th><td class="n">{{ Quantity::count($row->sums['errors']) }}, {{
        Quantity::count($row->sums['cancelled']) }}, {{ Quantity::count($row->sums['timed_out']) }}</td><td></td></tr>
    <tr><th scope="row">Warnings</th><td class="n">{{ Quantity::count($row->known('warnings', Fact::WARNINGS)) }}</td><td></td></tr>
    </tbody>
</x-table>
</div>
