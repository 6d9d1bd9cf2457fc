@php
    use Fulcrion\Core\Text\Quantity;
    use Fulcrion\Core\Telemetry\Fact;
    use App\Statements\Application\Ranking;
    use App\Statements\Application\OriginFilter;
    use App\Statements\Application\Percentiles;
    $query = request()->query();
    $with = fn (array $change): string => address('statements.index').'?'.http_build_query(array_filter([...$query, 'page' => null,
        ...$change],
        fn ($value) => $value !== null && $value !== ''));
    $filter = $scope->filter;
@endphp
<x-layout title="Statements" bench="tune" sub="statements">
<div class="reading">
    <x-topline :scope="$scope" :rail="$rail" action="{{ address('statements.index') }}" />
    <h1>{{ $sentence }}</h1>
    @if($ranking->statements === 0)
        <div class="empty">
            @if($filter->isEmpty())
                <p>No execution of {{ $scope->cluster->name }} lies in this window.</p>
                <p>@if(max($rail['loads']) > 0) The rail above shows when something ran: drag over it, or <a href="{{
                    $with(['window' => 'last 28 days']) }}">look at the last 28 days</a>.@else Nothing has been taken in for this cluster
                    in the last 14 days. <a href="{{ address('import.index') }}">Import a file</a> or <a
                    href="{{ address('cluster.index') }}">connect a server</a>.@endif</p>
            @else
                <p>The filter leaves nothing over. <a href="{{ address('statements.index') }}?{{
                    http_build_query(Illuminate\Support\Arr::except($scope->query(), ['database', 'user', 'application', 'kind', 'words',
                    'with'])) }}">Show all statements of the window</a>.</p>
            @endif
        </div>
    @else
    <div class="split">
        <h2>Over time</h2>
        @foreach(App\Statements\Application\LoadSeries::MEASURES as $key => $label)<a class="choice" href="{{
            $with(['show' => $key]) }}" @if($measure === $key) aria-current="true" @endif>{{ $label }}</a>@endforeach
    </div>
    @if($measure !== 'mean')
    <div class="split by">
        <span class="quiet">by</span>
        @foreach($measure === 'count' ? Illuminate\Support\Arr::except(App\Statements\Application\LoadSeries::SPLITS,
            'time') : App\Statements\Application\LoadSeries::SPLITS as $key => $label)<a class="choice" href="{{
            $with(['split' => $key]) }}" @if($split === $key) aria-current="true" @endif>{{ $label }}</a>@endforeach
    </div>
    {!! App\Platform\Figures\StackFigure::legend('load', $figure['names']) !!}
    @endif
    <x-figure :figure="$figure['figure']" name="{{ ucfirst(App\Statements\Application\LoadSeries::MEASURES[$measure]) }}" />

    @if($scope->cluster->isLive())<div hx-get="{{ address('state.beside') }}?{{ http_build_query(['cluster' => $scope->cluster->slug,
        'window' => $scope->windowText]) }}" hx-trigger="load" hx-swap="innerHTML"><p class="quiet late">Reading the state of the server
        …</p></div>@endif

    <section aria-labelledby="anomalies-title">
        <h2 id="anomalies-title">What stands out in 28 days</h2>
        <div hx-get="{{ address('statements.anomalies') }}?cluster={{ $scope->cluster->slug }}" hx-trigger="load" hx-swap="innerHTML">
        <p class="quiet late">Comparing the days of four weeks …</p></div>
    </section>
    @endif

    @if($ranking->statements > 0 || ! $filter->isEmpty())
    <h2 id="ranking-title">Statements, {{ $ascending ? 'least' : 'most' }} {{ Ranking::ORDERS[$order] }} first</h2>
    <x-filters :to="address('statements.index')">
        @foreach(['cluster' => $scope->cluster->slug, 'window' => $scope->windowText, 'split' => $split, 'show' => $measure === 'load'
            ? '' : $measure, 'by' => $order, 'dir' => $ascending ? 'up' : ''] as $name => $value)@if($value !== '')<input type="hidden"
            name="{{ $name }}" value="{{ $value }}">@endif @endforeach
        <x-search id="f-words" label="Words in the text" :value="$filter->words" placeholder="/ to find" />
        @foreach(['database', 'user', 'application'] as $name)
            <div><label for="f-{{ $name }}">{{ ucfirst($name) }}</label>
            <select class="form-select" id="f-{{ $name }}" name="{{ $name }}" data-submits><option value="">all</option>
                @foreach($choices[$name] as $choice)<option value="{{ $choice }}" @selected($filter->{$name} === $choice)>{{
                    $choice }}</option>@endforeach
                @if($filter->{$name} !== '' && ! in_array($filter->{$name}, $choices[$name], true))<option value="{{
                    $filter->{$name} }}" selected>{{ $filter->{$name} }}</option>@endif
            </select></div>
        @endforeach
        <div><label for="f-kind">Kind</label><select class="form-select" id="f-kind" name="kind" data-submits>
        <option value="">all</option>@foreach(Fulcrion\Core\Sql\StatementKind::cases() as $kind)<option value="{{
        $kind->value }}" @selected($filter->kind === $kind->value)>{{ $kind->value }}</option>@endforeach</select></div>
        @if(! $filter->isEmpty())<a href="{{ address('statements.index') }}?{{ http_build_query(Illuminate\Support\Arr::except($query,
            ['database',
            'user', 'application', 'kind', 'words', 'with', 'page'])) }}">Clear</a>@endif
        <fieldset><legend>only with</legend>
            @foreach(OriginFilter::FLAGS as $flag => $label)<label><input class="form-check-input" type="checkbox" name="with[]"
                value="{{ $flag }}" data-submits @checked(in_array($flag, $filter->flags, true))> {{ $label }}</label>@endforeach
        </fieldset>
    </x-filters>
    <div class="tools">
        <span>{{ Quantity::count($ranking->matching) }} {{ Str::plural('statement', $ranking->matching) }}{{
            $ranking->matching !== $ranking->statements ? ' of '.Quantity::count($ranking->statements) : '' }}, {{
            Quantity::count($ranking->totalExecutions) }} executions in the window</span>
        <a data-key="c" href="{{ address('compare.show') }}?{{
            http_build_query(['against' => 'the window before'] + $scope->query()) }}">Compare with the window before</a>
        <x-exports route="statements.export" :query="$query" />
        <a href="{{ address('statements.report') }}?{{ http_build_query($query) }}">Report</a>
    </div>
    @if($ranking->rows === [])
        <x-empty>No statement of this window passes the filter.</x-empty>
    @else
    <x-table name="Statements" :export="false" :columns="true" :sorts="false">
        <thead><tr>
            <th scope="col">Statement</th>
            @foreach(['time' => 'Time', 'executions' => 'Runs', 'mean' => 'Mean', 'p95' => 'p95', 'p99' => 'p99',
                'ratio' => 'Examined per returned', 'bytes' => 'Scanned', 'spill' => 'Spilled', 'lock' => 'Lock', 'errors' => 'Errors',
                'warnings' => 'Warnings'] as $key => $label)
                <th scope="col" class="n" @if($order === $key) aria-sort="{{ $ascending ? 'ascending' : 'descending' }}" @endif><a
                    href="{{ $with(['by' => $key, 'dir' => $order === $key && ! $ascending ? 'up' : null]) }}" title="Sort by {{
                    Ranking::ORDERS[$key] }}">{{ $label }}@if($order === $key) {{ $ascending ? '↑' : '↓' }}@endif</a></th>
            @endforeach
        </tr></thead>
        <tbody>
        @foreach($ranking->rows as $row)
            @php($slowdown = $row->slowdown())
            <tr data-row>
                <td class="statement">
                    <a href="{{ address('statement.show', $row->fingerprint) }}?{{
                        http_build_query(Illuminate\Support\Arr::except($scope->query(),
                        ['words', 'with', 'kind'])) }}">{{ App\Platform\Support\Sql::line($row->text, 260) }}</a>
                    <div class="flags">
                        @if($slowdown !== null && $slowdown >= 1.2)<x-state is="{{ $slowdown >= 2 ? 'act' : 'watch' }}">{{
                            Quantity::change(1, $slowdown, 'slower', 'faster') }}</x-state>@elseif($slowdown !== null
                            && $slowdown <= 0.83)<span>{{ Quantity::change(1, $slowdown, 'slower', 'faster') }}</span>@endif
                        @if($row->isNew)<span>new</span>@endif
                        @if($row->sums['full_scans'] > 0)<span>full scan</span>@endif
                        @if($row->sums['no_index'] > 0)<span>no index</span>@endif
                        @if($row->sums['tmp_disk'] > 0)<span>temporary table on disk</span>@endif
                        @if($row->sums['multi_pass'] > 0)<span>multi-pass sort</span>@endif
                    </div>
                </td>
                @php($bar = fn (string $key) => $order === $key ? App\Platform\Figures\Share::bar($row->measure / max(1e-9,
                    $ranking->greatest), Quantity::percent($row->measure / max(1e-9, $ranking->greatest)).' of the greatest') : '')
                <td class="n">{{ $bar('time') }}{{ Quantity::duration($row->sums['load_us']) }}<br><span class="quiet">{{
                    Quantity::percent($row->sums['load_us'] / max(1, $ranking->totalLoadUs)) }}</span></td>
                <td class="n">{{ $bar('executions') }}{{ Quantity::count($row->sums['executions']) }}</td>
                <td class="n">{{ $bar('mean') }}{{ Quantity::duration($row->meanUs()) }}</td>
                <td class="n" @if($row->percentiles->measured < $row->sums['executions']) title="from {{
                    Quantity::count($row->percentiles->measured) }} of {{ Quantity::count($row->sums['executions']) }} executions" @endif>{{
                    $bar('p95') }}{{ Quantity::duration($row->percentiles->p95Us) }}@if($row->percentiles->measured > 0
                    && $row->percentiles->measured < $row->sums['executions'])<br><span class="quiet">from {{
                    Quantity::percent($row->percentiles->measured / $row->sums['executions']) }}</span>@endif</td>
                <td class="n">{{ $bar('p99') }}{{ Quantity::duration($row->percentiles->p99Us) }}</td>
                <td class="n">{{ $bar('ratio') }}{{ Quantity::short($row->ratio() === null ? null : round($row->ratio(), 1)) }}</td>
                <td class="n">{{ $bar('bytes') }}{{ Quantity::bytes($row->known('bytes_scanned', Fact::BYTES_SCANNED)) }}</td>
                <td class="n">{{ $bar('spill') }}{{ Quantity::bytes($row->known('bytes_spilled', Fact::BYTES_SPILLED)) }}</td>
                <td class="n">{{ $bar('lock') }}{{ Quantity::duration($row->known('lock_us', Fact::LOCK)) }}</td>
                <td class="n">{{ $bar('errors') }}{{ Quantity::count($row->failures()) }}</td>
                <td class="n">{{ $bar('warnings') }}{{ Quantity::count($row->known('warnings', Fact::WARNINGS)) }}</td>
            </tr>
        @endforeach
        </tbody>
    </x-table>
    <p class="quiet small">Time is time in flight inside the window; its percentage is the share of the whole window, the bar compares
        with the greatest by the chosen measure. {{ Percentiles::worth($ranking->rows) }} {{
        Quantity::NONE }} means the source does not say.</p>
    @if($ranking->pages() > 1)
        <nav class="pages" aria-label="Pages">
            @if($ranking->page > 1)<a rel="prev" href="{{ $with(['page' => $ranking->page - 1]) }}">Before</a>@endif
            <span>Page {{ $ranking->page }} of {{ $ranking->pages() }}</span>
            @if($ranking->page < $ranking->pages())<a rel="next" href="{{ $with(['page' => $ranking->page + 1]) }}">Next</a>@endif
        </nav>
    @endif
    @endif
    @endif
</div>
</x-layout>
