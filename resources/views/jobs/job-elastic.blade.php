@php
    use Fulcrion\Core\Text\Quantity; use App\Jobs\Application\JobFindings;
    $price = $run->price ?? 1.0;
    $fixedHours = $elastic['levels'] === null ? 0.0 : $elastic['fixed']['workers'] * $elastic['fixed']['timeUs'] / 3.6e9;
    $saved = $elastic['levels'] === null ? 0.0 : $fixedHours - $elastic['workerHours'];
@endphp
<section id="job-elastic">
<h2>If workers could come and go</h2>
<p>@if($elastic['levels'] === null)No number of workers ends within {{
    Quantity::duration($elastic['withinUs']) }}; give it more time.@else To end within {{ Quantity::duration($elastic['withinUs']) }}, {{
    $saved > 0.01 * $fixedHours ? 'a changing number of workers would cost '.JobFindings::money($elastic['workerHours'] * $price,
    $run).' instead of '.JobFindings::money($fixedHours * $price,
    $run).' with the best fixed one ('.Quantity::count($elastic['fixed']['workers']).'): '.Quantity::percent($saved / max(1e-9,
    $fixedHours)).' less' : 'nothing is gained over '.Quantity::count($elastic['fixed']['workers']).' workers all the time' }}.@endif</p>
<form class="filters" hx-get="{{ address('job.elastic', $run->id) }}" hx-target="#job-elastic" hx-swap="outerHTML">
    <div><label for="elastic-within">Ends within, minutes</label><input class="form-control short" id="elastic-within" name="within"
        value="{{ round($elastic['withinUs'] / 6e7, 2) }}" inputmode="decimal"></div>
    <div><label for="elastic-step">In groups of</label><input class="form-control short" id="elastic-step" name="step" value="{{
        $elastic['step'] }}" inputmode="numeric"></div>
    <div><label for="elastic-delay">There after, seconds</label><input class="form-control short" id="elastic-delay" name="delay"
        value="{{ round($elastic['delayUs'] / 1e6) }}" inputmode="numeric"></div>
    <div><label for="elastic-hold">Held for at least, seconds</label><input class="form-control short" id="elastic-hold" name="hold"
        value="{{ round($elastic['holdUs'] / 1e6) }}" inputmode="numeric"></div>
    <button class="btn btn-line">Look for it</button> <span class="htmx-indicator quiet">looking…</span>
</form>
@if($saved > 0.01 * $fixedHours){!! App\Jobs\Charts\ElasticFigure::draw($elastic) !!}
<x-table name="Workers over time" class="narrow"><thead><tr><th scope="col">From</th>
    <th scope="col" class="n">Workers</th><th scope="col" class="n">For</th></tr></thead>
    <tbody>@foreach($elastic['levels'] as $i => [$at, $level])<tr>
    <td>{{ $at === 0 ? 'the start' : 'start + '.Quantity::duration($at) }}</td><td class="n">{{ Quantity::count($level) }}</td>
    <td class="n">{{ Quantity::duration(max(0, ($elastic['levels'][$i + 1][0] ?? $elastic['timeUs']) - $at)) }}</td>
    </tr>@endforeach</tbody></x-table>@endif
@if($elastic['levels'] !== null)<p class="quiet small">A worker is paid from when it is asked for, {{
    Quantity::duration($elastic['delayUs']) }} before it is there; one that is to go ends its task first. The cheapest of {{
    $elastic['tried'] }} tried: no quick way to the very best is known, but the tasks alone are {{
    JobFindings::money($elastic['leastWorkerHours'] * $price, $run) }}, so nothing costs less. Modelled.</p>@endif
</section>
