@php
    use Fulcrion\Core\Text\Quantity;
    $list = Illuminate\Support\Arr::except($scope->query(), ['against']);
@endphp
<x-layout title="Statement {{ substr($statement->fingerprint, 0, 8) }}" bench="tune" sub="statements">
<div class="reading">
    <x-topline :scope="$scope" :rail="$rail" action="{{ address('statement.show', $statement->fingerprint) }}" />
    <p class="trail"><a data-back href="{{ address('statements.index') }}?{{ http_build_query($list) }}">Statements</a> / {{
        $statement->kind }} <span class="mono">{{ $statement->fingerprint }}</span></p>
    <h1>{{ $sentence }}</h1>
    @if($statement->text === App\Estate\Connectors\DigestReading::UNTOLD_PREPARED)
    <div class="notice" role="note">These runs are counted, and nobody can say what ran: the server tells the text of a prepared statement
        only while it is open. Clients that keep statements open, or send them as text, are listed by statement.</div>
    @elseif($statement->text === App\Estate\Connectors\DigestReading::UNTOLD_FULL)
    <div class="notice" role="note">These runs are counted, and nobody can say what ran: the table of digests is full. Raise
        performance_schema_digests_size in the configuration of the server and restart it.</div>
    @endif
    <p class="quiet">First seen {{ moment($statement->first_us) }}, last seen {{ moment($statement->last_us) }}.</p>
    @if($row !== null)
        <div class="tools">
            <a data-key="c" href="{{ address('compare.show') }}?{{
                http_build_query(['against' => 'the window before'] + $list) }}">Compare the windows</a>
            <a href="{{ address('system.show') }}?{{ http_build_query(['cluster' => $scope->cluster->slug, 'statement' =>
                $statement->fingerprint, 'at' => moment($statement->last_us, App\Platform\Support\MomentStyle::Written, $scope->zone)])
                }}">Is it the system?</a>
            <a href="{{ address('statement.text', $statement->fingerprint) }}?{{ http_build_query($list) }}">Text</a>
            <a href="{{ address('statement.report', $statement->fingerprint) }}?{{
                http_build_query($scope->query()) }}">Report without literals</a>
            @can('run')<a href="{{ address('workbench.show') }}?{{ http_build_query(['statement' => $statement->fingerprint,
                'of' => $scope->cluster->slug, 'cluster' => $scope->cluster->connector === 'mariadb' ? $scope->cluster->slug
                : '']) }}">Rehearse</a>@endcan
            @can('reveal')
                <form method="post" action="{{ address('statement.revealing-report', $statement->fingerprint) }}?{{
                    http_build_query($scope->query()) }}">@csrf<button class="plain">Report with literals</button></form>
            @endcan
        </div>
        <h2>Mean latency</h2>
        <x-figure :figure="$meanFigure" name="Mean latency" />
        <h2>Executions</h2>
        <x-figure :figure="$countFigure" name="Executions" />
    @else
        <p>@if($statement->last_us) It ran last on {{ moment($statement->last_us) }}: <a href="?{{
            http_build_query(['window' => gmdate('Y-m-d', intdiv($statement->last_us,
            1000000))] + $scope->query()) }}">look at that day</a>.@else Choose another cluster above.@endif</p>
    @endif
    <h2 id="plans">Plans</h2>
    @if($scope->cluster->connector === 'practice')@can('run')<form class="tools" method="post" action="{{
        address('rewrite.ask') }}">@csrf<input
        type="hidden" name="cluster" value="{{ $scope->cluster->slug }}"><input type="hidden" name="fingerprint" value="{{
        $statement->fingerprint }}"><button
        class="plain">What the planner makes of it, and what you could write instead</button></form>@endcan @endif
    @include('statements.statement-plans')
    <h2>Text</h2>
    <pre class="sql" tabindex="0">{{ App\Platform\Support\Sql::pretty($statement->text, $scope->cluster->dialect) }}</pre>
    @if($row !== null)
        <h2>Facts of the window</h2>
        @include('statements.statement-facts')
        <h2>What they mean</h2>
        <ul class="annotated">@foreach($remarks as $remark)<li><x-state :is="$remark['state']" /><p>{{ $remark['text'] }}</p>
        </li>@endforeach</ul>
        <div class="columns">
            <div><h2>How long runs took</h2>@if($spreadFigure)<x-figure :figure="$spreadFigure" name="Durations" />@else<p
                class="quiet">This source counts executions but gives no single durations, so quantiles cannot be told.</p>@endif</div>
            <div><h2>When in the week</h2><x-figure :figure="$weekFigure" name="Week" /></div>
        </div>
        <h2>Who runs it, and from where</h2>
        @include('statements.statement-origins')
        <h2>Errors and warnings</h2>
        @if($messages === [])<p>None with a text in this window.</p>@else @include('statements.statement-messages') @endif
        <h2>Samples</h2>
        @include('statements.samples')
    @endif
</div>
</x-layout>
