@php use Fulcrion\Core\Text\Quantity; use Fulcrion\Core\Telemetry\Fact; @endphp
<x-report title="Statements of {{ $scope->cluster->name }}" :style="$style" :about="$about" :madeAt="$madeAt">
<h1>{{ $sentence }}</h1>
@if(! $scope->filter->isEmpty())<p class="quiet">Filter: {{ collect($scope->filter->query())->map(fn ($value,
    $name) => $name.' '.implode(', ', (array) $value))->implode('; ') }}</p>@endif
<h2>{{ ucfirst(App\Statements\Application\LoadSeries::MEASURES[$measure]) }} over time{{
    $measure === 'mean' ? '' : ' by '.App\Statements\Application\LoadSeries::SPLITS[$split] }}</h2>
{!! App\Platform\Figures\StackFigure::legend('load', $figure['names']) !!}
<figure>{!! preg_replace('~</?a\b[^>]*>~', '', $figure['figure']->svg) !!}<figcaption>{{ $figure['figure']->summary }} {{
    $figure['figure']->how }}</figcaption></figure>
<h2>Statements, most {{ App\Statements\Application\Ranking::ORDERS[$order] }} first</h2>
<x-table name="Statements" :export="false" :sorts="false">
<thead><tr><th>Statement (literals replaced by ?)</th><th class="n">Time</th><th class="n">Share</th><th class="n">Runs</th>
<th class="n">Mean</th><th class="n">p95</th><th class="n">p99</th><th class="n">Examined per returned</th><th class="n">Scanned</th>
<th class="n">Errors</th></tr></thead>
<tbody>
@foreach($ranking->rows as $row)
<tr><td class="sql">{{ $row->text }}<br><span class="quiet">{{ $row->fingerprint }}</span></td>
<td class="n">{{ Quantity::duration($row->sums['load_us']) }}</td><td class="n">{{ Quantity::percent($row->sums['load_us'] / max(1,
$ranking->totalLoadUs)) }}</td><td class="n">{{ Quantity::count($row->sums['executions']) }}</td>
<td class="n">{{ Quantity::duration($row->meanUs()) }}</td><td class="n">{{ Quantity::duration($row->percentiles->p95Us) }}</td>
<td class="n">{{ Quantity::duration($row->percentiles->p99Us) }}</td><td class="n">{{ Quantity::short($row->ratio() === null ? null
: round($row->ratio(), 1)) }}</td><td class="n">{{ Quantity::bytes($row->known('bytes_scanned', Fact::BYTES_SCANNED)) }}</td>
<td class="n">{{ Quantity::count($row->failures()) }}</td></tr>
@endforeach
</tbody>
</x-table>
<p class="quiet">{{ Quantity::count(count($ranking->rows)) }} of {{
    Quantity::count($ranking->matching) }} statements. Time is time in flight inside the window. {{
    App\Statements\Application\Percentiles::worth($ranking->rows) }} {{ Quantity::NONE }} means the source does not say.</p>
</x-report>
