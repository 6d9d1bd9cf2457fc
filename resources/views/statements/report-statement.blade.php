@php use Fulcrion\Core\Text\Quantity; @endphp
<x-report title="Statement {{ substr($statement->fingerprint, 0, 8) }} on {{ $scope->cluster->name }}" :style="$style" :about="$about"
    :madeAt="$madeAt">
<h1>{{ $sentence }}</h1>
<p class="quiet">{{ $statement->kind }} {{ $statement->fingerprint }}@if($statement->first_us), first seen {{
    utc($statement->first_us) }}, last seen {{ utc($statement->last_us) }} @endif</p>
<pre class="sql">{{ App\Platform\Support\Sql::pretty($statement->text, $scope->cluster->dialect) }}</pre>
@if($row !== null)
@foreach([[$meanFigure, 'Mean latency'], [$countFigure, 'Executions']] as [$each, $name])<h2>{{
    $name }}</h2><figure>{!! $each->svg !!}<figcaption>{{ $each->how }}</figcaption></figure>@endforeach
<h2>Facts of the window</h2>
@include('statements.statement-facts')
<h2>What they mean</h2>
<ul>@foreach($remarks as $remark)<li><strong>{{ $remark['state'] }}</strong>: {{ $remark['text'] }}</li>@endforeach</ul>
<div class="columns">
@foreach(array_filter([$spreadFigure, $weekFigure]) as $each)<figure>{!! $each->svg !!}<figcaption>{{
    $each->how }}</figcaption></figure>@endforeach
</div>
<h2>Who runs it, and from where</h2>
@include('statements.statement-origins')
@if($messages !== [])<h2>Errors and warnings</h2>@include('statements.statement-messages')@endif
@if($literals !== [])
<h2>Samples with literals</h2>
<x-table name="Samples" :export="false" :sorts="false">
<thead><tr><th>Began (UTC)</th><th class="n">Took</th><th>User</th><th>Text</th></tr></thead><tbody>
@foreach($literals as $sample)<tr><td>{{ moment($sample['started_at_us'], App\Platform\Support\MomentStyle::Second,
    new DateTimeZone('UTC')) }}</td>
<td class="n">{{ Quantity::duration($sample['duration_us']) }}</td><td>{{ $sample['user'] ?? '' }}</td><td class="sql">{{
$sample['sql'] }}@if(isset($sample['binds']))<br>binds: {{ json_encode($sample['binds']) }}@endif</td></tr>@endforeach
</tbody></x-table>
@endif
@endif
</x-report>
