@php
    use Fulcrion\Core\Text\Quantity; use App\Jobs\Application\JobFindings; use App\Jobs\Models\JobSeries;
    $run = $page->run; $forecast = $run->forecast ?? []; $elastic = $forecast['elastic'] ?? null; $tonight = $forecast['tonight'] ?? null;
@endphp
<div id="job-forecast" data-distribution='@json($forecast['distribution'] ?? null)'>
@if($tonight !== null)
<h2>The next run</h2>
<p>{{ $tonight['workers'] === null ? 'No number of workers fits “'.JobSeries::AIMS[$page->aim()].'” with what it is likely to read.'
    : Quantity::count($tonight['workers']).' workers fit “'.JobSeries::AIMS[$page->aim()].'”'.($page->aim() === 'deadline'
    ? ', nine times of ten' : '').'.' }} It should read {{ Quantity::bytes($tonight['input']) }}, {{ Quantity::change(1.0,
    $tonight['factor'], 'more', 'less') }} {{ abs($tonight['factor'] - 1) >= 0.01 ? 'than this run' : '' }}{{
    $tonight['runs'] >= 3 ? ' (a line through '.$tonight['runs'].' runs, '.($tonight['weekly'] >= 0 ? 'growing '
    : 'falling ').Quantity::percent(abs($tonight['weekly'])).' a week'.($tonight['deviation'] > 0
    ? ', give or take '.Quantity::percent($tonight['deviation'] / max(0.01, $tonight['factor'])) : '').')' : '' }}.</p>
@if($tonight['rows'] !== [])<x-table name="The next run" class="narrow"><thead><tr><th scope="col" class="n">Workers</th>
<th scope="col" class="n">One run of ten is faster than</th><th scope="col" class="n">Middle</th>
<th scope="col" class="n">One run of ten is slower than</th><th scope="col" class="n">Chance to be late</th></tr></thead>
<tbody>@foreach($tonight['rows'] as $row)<tr><td class="n"><a href="#workers" data-workers="{{ $row['workers'] }}">{{
Quantity::count($row['workers']) }}</a></td><td class="n">{{ Quantity::duration($row['lowUs']) }}</td>
<td class="n">{{ Quantity::duration($row['middleUs']) }}</td><td class="n">{{ Quantity::duration($row['highUs']) }}</td>
<td class="n">{{ $row['late'] === null ? Quantity::NONE : Quantity::percent($row['late']) }}</td></tr>@endforeach</tbody></x-table>@endif
@endif
@if($tonight !== null && $tonight['runs'] >= 3 && isset($tonight['growth']))<h3>How its input moves the curve</h3>
<x-table name="Growth" class="narrow"><thead><tr>
<th scope="col">When</th><th scope="col" class="n">Input</th><th scope="col" class="n">With {{
Quantity::count($run->workers) }} workers</th><th scope="col" class="n">Workers that fit</th><th scope="col" class="n">Takes</th>
<th scope="col" class="n">Costs</th></tr></thead><tbody>@foreach($tonight['growth'] as $row)<tr><td>{{ $row['when'] }}</td>
<td class="n">{{ Quantity::bytes($row['input']) }}</td><td class="n">{{ Quantity::duration($row['sameUs']) }}</td>
<td class="n">{{ $row['fits'] === null ? 'none' : Quantity::count($row['fits']['workers']) }}</td>
<td class="n">{{ Quantity::duration($row['fits']['timeUs'] ?? null) }}</td><td class="n">{{ $row['fits'] === null ? Quantity::NONE
: JobFindings::money($row['fits']['workers'] * $row['fits']['timeUs'] / 3.6e9 * ($run->price ?? 1.0), $run) }}</td>
</tr>@endforeach</tbody></x-table>
<p class="quiet small">Each task follows the line of its stage through time against bytes; the rest stays. In four weeks: the line
    through the runs so far, drawn on. Modelled.</p>@endif
@if(isset($forecast['distribution']))
<p class="quiet small">Run-time distribution: the job was scheduled {{ $forecast['distribution']['draws'] }} times at {{
    count($forecast['distribution']['workers']) }} numbers of workers with newly drawn task times (what a task took against what is
    expected for its bytes, drawn among the tasks of its stage). A chance from so few draws is never told as 0 or 100%.</p>
@endif
@if($elastic !== null)@include('jobs.job-elastic')@endif
</div>
