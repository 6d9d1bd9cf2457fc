@php
    use Fulcrion\Core\Text\Quantity;
    $query = request()->query();
    $total = $result['after'] - $result['before'];
    $signed = fn (float $value): string => ($value > 0 ? '+' : '').Quantity::count($value, abs($value) >= 0.1 ? 3 : 5);
    $moved = array_sum(array_map(fn ($change) => abs($change->change()), $result['changes']));
    $part = fn (float $value): string => $moved > 1e-12 ? ($value > 0 ? '+' : '').Quantity::percent($value / $moved) : Quantity::NONE;
    $most = max([1e-12, ...array_map(fn ($change) => abs($change->change()), $shown)]);
@endphp
<x-layout title="Compare" bench="tune" sub="compare">
<div class="reading">
    <x-topline :scope="$scope" :rail="$rail" action="{{ address('compare.show') }}" :against="true" />
    <h1>{{ $sentence }}</h1>
    @if($result['changes'] === [])
        <x-empty>Choose windows in which something ran: the rail shows where.</x-empty>
    @else
    <x-figure :figure="$figure" name="The change" />
    <div class="split">
        <h2>Which statements</h2>
        <a class="choice" href="{{ address('compare.show') }}?{{ http_build_query(Illuminate\Support\Arr::except($query,
            'movement')) }}" @if($movement === '') aria-current="true" @endif>all {{ Quantity::count(count($result['changes'])) }}</a>
        @foreach(App\Statements\Http\CompareController::MOVEMENTS as $each)<a class="choice" href="{{ address('compare.show') }}?{{
            http_build_query(['movement' => $each] + $query) }}" @if($movement === $each) aria-current="true" @endif>{{ $each }} {{
            Quantity::count($counts[$each] ?? 0) }}</a>@endforeach
    </div>
    <div class="tools">
        <x-exports route="compare.export" :query="$query" />
        <a data-back href="{{ address('statements.index') }}?{{ http_build_query(Illuminate\Support\Arr::except($query, ['against',
            'movement'])) }}">Back to the statements</a>
    </div>
    <x-table name="Changes by statement" :export="false" :columns="true" :sorts="false">
        <thead><tr><th scope="col">Statement</th><th scope="col">Movement</th><th scope="col" class="n">Change of load</th>
        <th scope="col" class="n">Share of what moved</th><th scope="col" class="n">by count</th>
        <th scope="col" class="n">by latency</th><th scope="col" class="n">Runs</th><th scope="col" class="n">Mean</th></tr></thead>
        <tbody>
        @foreach($shown as $change)
            @php($width = round(40 * abs($change->change()) / $most, 1))
            <tr data-row>
                <td class="statement"><a href="{{ address('statement.show', $texts[$change->statement]->fingerprint) }}?{{
                    http_build_query(Illuminate\Support\Arr::except($scope->query(), ['words', 'with', 'kind'])) }}">{{
                    App\Platform\Support\Sql::line($texts[$change->statement]->text, 220) }}</a></td>
                <td>{{ $change->movement() }}</td>
                <td class="n"><svg class="share" viewBox="0 0 82 8" aria-hidden="true"><rect class="track" width="82" height="8"/><rect
                    class="bar" x="{{ $change->change() >= 0 ? 41 : 41 - $width }}" width="{{ $width }}" height="8"/><path d="M41 0V8"
                    stroke="currentColor"/></svg><br>{{ $signed($change->change()) }}</td>
                <td class="n">{{ $part($change->change()) }}</td>
                <td class="n">{{ $signed($change->byCount) }}</td>
                <td class="n">{{ $signed($change->byLatency) }}</td>
                <td class="n">{{ Quantity::count($change->executionsBefore) }} → {{ Quantity::count($change->executionsAfter) }}</td>
                <td class="n">{{ $change->executionsBefore > 0 ? Quantity::duration($change->meanUsBefore) : Quantity::NONE }} → {{
                    $change->executionsAfter > 0 ? Quantity::duration($change->meanUsAfter) : Quantity::NONE }}</td>
            </tr>
        @endforeach
        </tbody>
        <tfoot>
            @if($restCount > 0)<tr><td>{{ Quantity::count($restCount) }} others</td><td></td><td class="n">{{ $signed($rest) }}</td>
            <td class="n">{{ $part($rest) }}</td><td></td><td></td><td></td><td></td></tr>@endif
            <tr><th scope="row">Whole change</th><td></td><td class="n">{{ $signed($total) }}</td><td class="n">{{ $part($total) }}</td>
            <td></td><td></td><td></td><td></td></tr>
        </tfoot>
    </x-table>
    <p class="quiet small">Load is the mean number of executions in flight, so windows of different length compare. A statement's change
        is split between how often it ran (by count) and how long (by latency) (midpoint of both windows); what is left of it comes from
        runs that reach over a border of a window. The parts of all statements add up to the whole.</p>
    @endif
</div>
</x-layout>
