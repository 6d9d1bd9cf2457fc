@php
    use Fulcrion\Core\Text\Quantity; use App\Tune\Parallel\JobFindings; use App\Tune\Models\JobSeries;
    $run = $page->run; $later = $run->later ?? []; $elastic = $later['elastic'] ?? null; $tonight = $later['tonight'] ?? null;
@endphp
<div id="job-later" data-luck='@json($later['luck'] ?? null)'>
@if($tonight !== null)
<h2>The next run</h2>
<p>{{ $tonight['workers'] === null ? 'No number of workers fits “'.JobSeries::AIMS[$page->aim()].'” with what it is likely to read.' : Quantity::count($tonight['workers']).' workers fit “'.JobSeries::AIMS[$page->aim()].'”'.($page->aim() === 'deadline' ? ', nine times of ten' : '').'.' }} It should read {{ Quantity::bytes($tonight['input']) }}, {{ Quantity::change(1.0, $tonight['factor'], 'more', 'less') }} {{ abs($tonight['factor'] - 1) >= 0.01 ? 'than this run' : '' }}@if($tonight['runs'] >= 3) (a line through {{ $tonight['runs'] }} runs, {{ $tonight['weekly'] >= 0 ? 'growing' : 'falling' }} {{ Quantity::percent(abs($tonight['weekly'])) }} a week @if($tonight['deviation'] > 0), give or take {{ Quantity::percent($tonight['deviation'] / max(0.01, $tonight['factor'])) }}@endif)@endif.</p>
@if($tonight['rows'] !== [])<div class="scroll" tabindex="0" role="region" aria-label="The next run"><table class="narrow" data-take="The next run"><thead><tr><th scope="col" class="n">Workers</th><th scope="col" class="n">One run of ten is faster than</th><th scope="col" class="n">Middle</th><th scope="col" class="n">One run of ten is slower than</th><th scope="col" class="n">Chance to be late</th></tr></thead><tbody>@foreach($tonight['rows'] as $row)<tr><td class="n"><a href="#workers" data-workers="{{ $row['workers'] }}">{{ Quantity::count($row['workers']) }}</a></td><td class="n">{{ Quantity::duration($row['lowUs']) }}</td><td class="n">{{ Quantity::duration($row['middleUs']) }}</td><td class="n">{{ Quantity::duration($row['highUs']) }}</td><td class="n">{{ $row['late'] === null ? Quantity::NONE : Quantity::percent($row['late']) }}</td></tr>@endforeach</tbody></table></div>@endif
@endif
@if(isset($later['luck']))
<p class="quiet small">Luck: the job was scheduled {{ $later['luck']['draws'] }} times at {{ count($later['luck']['workers']) }} numbers of workers with task times drawn anew (what a task took against what is expected for its bytes, drawn among the tasks of its stage). A chance from so few draws is never told as 0 or 100%.</p>
@endif
@if($elastic !== null)@include('tune.job-elastic')@endif
</div>
