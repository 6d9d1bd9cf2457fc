@php
    use App\Statements\Charts\PlanFigure;
    use Fulcrion\Core\Text\Quantity;
    $different = count(array_filter($rows, fn ($row) => $row[0] === null || $row[1] === null));
    $cell = fn ($step): string => $step === null ? Quantity::NONE : ($step->rows->actual === null
        ? Quantity::count((int) $step->rows->estimated).' expected' : Quantity::count((int) $step->rows->actual));
    $time = fn ($step): string => $step?->cost->ownUs === null ? Quantity::NONE : Quantity::duration($step->cost->ownUs);
@endphp
<x-layout title="Two plans" bench="tune" sub="plans">
<div class="reading plan-page">
    <p class="trail"><a data-back href="{{ address('plan.show', $second->id) }}">Plan</a> / beside another</p>
    <h1>{{ $different === 0 ? 'Both plans have the same steps' : ($different === 1 ? 'One step differs'
        : "{$different} steps differ") }}@if($first->meanUs() !== null && $second->meanUs() !== null); the second is {{
        Quantity::change($first->meanUs(), $second->meanUs(), 'slower', 'faster') }} on average @endif</h1>
    @foreach([['First', $first, $a], ['Second', $second, $b]] as [$name, $stored, $plan])
        <h2>{{ $name }}: {{ $clusters[$stored->clusterId] ?? '' }}, from {{ moment($stored->firstUs) }} to {{
            moment($stored->lastUs) }}{{ $stored->meanUs() === null ? '' : ', '.Quantity::duration($stored->meanUs()).' on average' }}</h2>
        <figure><div class="scroll" tabindex="0" role="group" aria-label="{{ $name }} plan, figure">{!! (new PlanFigure($plan,
            address('plan.show', $stored->id)))->svg() !!}</div></figure>
    @endforeach
    <h2>Step by step</h2>
    <x-table name="Step by step" export="Two plans" :sorts="false">
        <thead><tr><th scope="col">Step</th><th scope="col">In</th><th scope="col" class="n">Rows, first</th>
        <th scope="col" class="n">Rows, second</th><th scope="col" class="n">Own time, first</th>
        <th scope="col" class="n">Own time, second</th></tr></thead>
        <tbody>@foreach($rows as [$x, $y, $depth])<tr @class(['only-first' => $y === null, 'only-second' => $x === null])>
            <td class="step d{{ min(12, $depth) }}">{{ ($x ?? $y)->title() }} <span class="quiet small">{{
                mb_strimwidth(($x ?? $y)->detail === ($x ?? $y)->table?->name ? '' : ($x ?? $y)->detail, 0, 80, '…') }}</span></td>
                <td>{{ $y === null ? 'first only' : ($x === null ? 'second only' : 'both') }}</td><td class="n">{{ $cell($x) }}</td>
                <td class="n">{{ $cell($y) }}</td><td class="n">{{ $time($x) }}</td><td class="n">{{ $time($y) }}</td>
        </tr>@endforeach</tbody></x-table>
</div>
</x-layout>
