@php
    use Fulcrion\Core\Text\Quantity; use App\Platform\Support\Money;
    $job = $lines['job']; $actual = $lines['actual'];
    $price = $job['price'] === null ? null : (float) $job['price'];
    $cost = fn (int $workers, float $us): string => Money::of($workers * $us / 3.6e9, $price, (string) $job['currency']);
    $most = max($job['runsUs'], $job['highUs'], $actual['timeUs'] ?? 0, $job['deadlineUs']) * 1.04;
    $x = fn (float $us): string => App\Platform\Figures\Svg::number(170 + $us / max(1, $most) * 990);
@endphp
<h2>Before, predicted{{ $actual === null ? '' : ', actual' }}</h2>
<div class="scroll" tabindex="0" role="group" aria-label="Time, figure"><svg class="figure-svg" viewBox="0 0 1180 {{
    $actual === null ? 84 : 116 }}" role="img" aria-label="Time before, predicted{{
    $actual === null ? '' : ' and actual' }}; the same figures stand in the table below">
    <text class="tick strong" x="160" y="25" text-anchor="end">before, {{ Quantity::count($job['runsWorkers']) }} workers</text><rect
        class="before-bar" x="170" y="10" width="{{ $x($job['runsUs']) - 170 }}" height="22"/>
    <text class="tick strong" x="160" y="57" text-anchor="end">predicted, {{ Quantity::count($job['workers']) }}</text><rect
        class="before-bar" x="{{ $x($job['lowUs']) }}" y="42" width="{{ max(2, $x($job['highUs']) - $x($job['lowUs'])) }}"
        height="22"/><line class="foretold" x1="{{ $x($job['timeUs']) }}" x2="{{ $x($job['timeUs']) }}" y1="38" y2="68"
        stroke="currentColor" stroke-width="2"/>
    @if($actual !== null)<text class="tick strong" x="160" y="89" text-anchor="end">actual, {{
        Quantity::count($actual['workers']) }}</text><rect class="after-bar{{ $record->holds ? '' : ' worse' }}" x="170" y="74" width="{{
        $x($actual['timeUs']) - 170 }}" height="22"/>@endif
    @if($job['deadlineUs'] >= 0)<line class="limit" x1="{{ $x($job['deadlineUs']) }}" x2="{{ $x($job['deadlineUs']) }}" y1="4" y2="{{
        $actual === null ? 70 : 102 }}" stroke="currentColor" stroke-dasharray="5 4"/><text class="tick" x="{{
        $x($job['deadlineUs']) }}" y="{{ $actual === null ? 82 : 114 }}" text-anchor="middle">deadline</text>@endif
</svg></div>
<x-table name="Runs" :export="false"><thead><tr><th scope="col">Run</th>
<th scope="col" class="n">Workers</th><th scope="col" class="n">Time</th><th scope="col" class="n">Cost</th>
<th scope="col" class="n">Idle</th><th scope="col">Deadline</th></tr></thead><tbody>
    <tr><td>before: run {{ $job['run'] }}</td><td class="n">{{ Quantity::count($job['runsWorkers']) }}</td>
    <td class="n">{{ Quantity::duration($job['runsUs']) }}</td><td class="n">{{ $cost($job['runsWorkers'], $job['runsUs']) }}</td>
    <td class="n">{{ Quantity::percent($job['runsIdle']) }}</td>
    <td>{{ $job['deadlineUs'] < 0 ? 'none' : ($job['runsUs'] <= $job['deadlineUs'] ? 'met' : 'late') }}</td></tr>
    <tr><td>predicted (modelled)</td><td class="n">{{ Quantity::count($job['workers']) }}</td>
    <td class="n">{{ Quantity::duration($job['timeUs']) }}, {{ Quantity::duration($job['lowUs']) }} to {{
    Quantity::duration($job['highUs']) }}</td><td class="n">{{ $cost($job['workers'], $job['timeUs']) }}</td>
    <td class="n">{{ Quantity::percent($job['idle']) }}</td>
    <td>{{ $job['deadlineUs'] < 0 ? 'none' : ($job['timeUs'] <= $job['deadlineUs'] ? 'met' : 'late') }}</td></tr>
    @if($actual !== null)<tr><td>actual: run {{ $actual['run'] }}</td><td class="n">{{ Quantity::count($actual['workers']) }}</td>
    <td class="n">{{ Quantity::duration($actual['timeUs']) }} ({{ abs($job['timeUs'] / max(1, $actual['timeUs']) - 1) < 0.01
    ? 'as predicted' : 'predicted '.Quantity::change($actual['timeUs'], $job['timeUs'], 'longer', 'shorter') }})</td>
    <td class="n">{{ $cost($actual['workers'], $actual['timeUs']) }}</td><td class="n">{{ Quantity::percent($actual['idle']) }}</td>
    <td>{{ $actual['late'] === null ? 'none' : ($actual['late'] ? 'late' : 'met') }}</td></tr>@endif
</tbody></x-table>
<p class="small quiet">The reason given: {{ $job['reason'] ?? '' }}</p>
@if($lines['stages'] !== [])<h2>Stage by stage</h2>
<x-table name="Stages" :export="false"><thead><tr><th scope="col">Stage</th>
<th scope="col" class="n">Worker time before</th><th scope="col" class="n">after</th><th scope="col" class="n">Lasted before</th>
<th scope="col" class="n">after</th></tr></thead><tbody>@foreach($lines['stages'] as $stage)<tr><td>{{ $stage['stage'] }}</td>
<td class="n">{{ Quantity::duration($stage['before']['workUs'] ?? null) }}</td>
<td class="n">{{ Quantity::duration($stage['after']['workUs'] ?? null) }}</td>
<td class="n">{{ Quantity::duration($stage['before']['wallUs'] ?? null) }}</td>
<td class="n">{{ Quantity::duration($stage['after']['wallUs'] ?? null) }}</td></tr>@endforeach</tbody></x-table>@endif
