@php
    use Fulcrion\Core\Text\Quantity; use App\Ledger\Proofs\ProofFigure;
    [$b, $a] = [$proof->sum(false), $proof->sum(true)];
    $pair = fn (string $x, string $y) => new Illuminate\Support\HtmlString('<span class="was">'.e($x).'</span><br>'.e($y));
    // What is counted and modelled is counted of what reads.
    $counted = fn ($line, Closure $of) => $line->isWrite() ? '–' : $pair($of($line->before), $of($line->after));
    $estimates = $change->kind()->estimates || $proof->worstEstimate(false) > 2 * $proof->worstEstimate(true);
@endphp
<x-table name="Statements before and after" export="Proof" :sorts="false" class="proof-table">
    <thead><tr><th scope="col">Statement</th><th scope="col">Change</th><th scope="col" class="n">Time{{ array_filter($proof->lines,
        fn ($l) => $l->before->modelledUs !== null) ? ', modelled' : '' }}</th><th scope="col" class="n">Cold, measured</th>
        <th scope="col" class="n">Warm, measured</th><th scope="col" class="n">Read</th><th scope="col" class="n">Chunks</th>
        <th scope="col" class="n">Between nodes</th>@if($estimates)<th scope="col" class="n">Worst estimate off by</th>@endif<th
        scope="col">Result</th></tr></thead>
    <tbody>@foreach($proof->lines as $line)
    <tr @class(['worse' => $line->isWorse() || $line->failed() || $line->equal() === false])>
    <td class="statement"><span class="mono small" title="{{ $line->statement }}">{{ substr($line->statement, 0, 8) }}: {{
    mb_strimwidth($line->text, 0, 150, '…') }}</span></td>
    @if($line->failed())<td colspan="{{ $estimates ? 9 : 8 }}"><span class="bad-text">{{
        $line->before->error !== '' ? 'Before: '.$line->before->error : '' }} {{
        $line->after->error !== '' ? 'After: '.$line->after->error : '' }}</span></td>
    @else<td @class(['nowrap', 'off' => $line->isWorse()])>{{ ProofFigure::words($line->factor()) }}</td>
    <td class="n">{{ $counted($line, fn ($m) => Quantity::duration($m->us())) }}</td>
    <td class="n">{{ $pair(Quantity::duration($line->before->coldUs), Quantity::duration($line->after->coldUs)) }}</td>
    <td class="n">{{ $pair(Quantity::duration($line->before->warmUs), Quantity::duration($line->after->warmUs)) }}</td>
    <td class="n">{{ $counted($line, fn ($m) => Quantity::bytes($m->bytesRead)) }}</td>
    <td class="n">{{ $counted($line, fn ($m) => Quantity::count($m->chunksRead)) }}</td>
    <td class="n">{{ $counted($line, fn ($m) => Quantity::bytes($m->bytesSent)) }}</td>@if($estimates)<td
    class="n">{{ $counted($line, fn ($m) => Quantity::digits($m->worstEstimate)) }}</td>@endif<td>{{
    $line->isWrite() ? 'written to copies, times measured' : ['same rows', 'rows differ', 'too many rows to compare'][
    $line->equal() === null ? 2 : ($line->equal() ? 0 : 1)] }}</td>@endif
    </tr>@endforeach
    <tr class="sum"><th scope="row">{{
        array_filter($proof->lines, fn ($l) => $l->isWrite()) ? 'all that read' : 'all together' }}</th>
    <td class="nowrap">{{ ProofFigure::words($proof->factor()) }}</td>
    <td class="n">{{ $pair(Quantity::duration($b['us']), Quantity::duration($a['us'])) }}</td>
    <td class="n">{{ $pair(Quantity::duration($b['coldUs']), Quantity::duration($a['coldUs'])) }}</td>
    <td class="n">{{ $pair(Quantity::duration($b['warmUs']), Quantity::duration($a['warmUs'])) }}</td>
    <td class="n">{{ $pair(Quantity::bytes($b['bytesRead']), Quantity::bytes($a['bytesRead'])) }}</td>
    <td class="n">{{ $pair(Quantity::count($b['chunksRead']), Quantity::count($a['chunksRead'])) }}</td>
    <td class="n">{{ $pair(Quantity::bytes($b['bytesSent']), Quantity::bytes($a['bytesSent'])) }}</td>@if($estimates)<td class="n">{{
    $pair(Quantity::digits($proof->worstEstimate(false)), Quantity::digits($proof->worstEstimate(true))) }}</td>@endif<td></td></tr>
    </tbody></x-table>
<p class="quiet small">Each cell has the figure before above the one after. Bytes and chunks are counted; bytes are of the modelled
    cluster. Modelled time follows from the counters alone; measured times are of this machine, which runs other work too. Results are
    compared row by row whatever their order, floating point to seven digits.@if(array_filter($proof->lines, fn ($l) => $l->isWrite()))
    A write is run several times on two copies by turns; warm is the least of its times.@endif</p>
