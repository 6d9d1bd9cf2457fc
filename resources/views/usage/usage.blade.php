@php
    use App\Telemetry\Usage\Amount; use App\Telemetry\Usage\UsageField; use App\Platform\Support\Sql;
    use Fulcrion\Core\Text\Quantity;
    $scope = $page->scope;
    $measure = $scope->measure;
    $total = $page->teams->after->amount;
@endphp
<x-layout title="Usage" bench="meter" sub="usage">
<div class="reading">
    <h1>{{ $page->sentence() }}</h1>
    @include('usage.filters', ['to' => address('usage.index')])
    @if(! $page->hasFacts())<x-empty>Usage facts are made from the load of statements every five minutes, and a day is closed an hour after
        its end. Choose other days, or <a href="{{ address('import.index') }}">import</a> the records of a time before.</x-empty>@else
    @if($page->river !== null)<h2>Week by week</h2><x-figure :figure="$page->river" name="Use by team" />@endif
    <h2>By team</h2>
    <x-table name="Use by team" :export="false" :columns="true"><thead><tr><th scope="col">Team</th>
        <th scope="col" class="n">{{ ucfirst($measure->label()) }}</th>
        <th scope="col" class="n">Share</th><th scope="col" class="n">Before</th><th scope="col">Change</th>
        <th scope="col" class="n">Executions</th><th scope="col" class="n">Executions before</th></tr></thead>
    <tbody>@foreach($page->byUse() as $one)<tr data-row><td><a href="{{ address('usage.why') }}?{{ http_build_query(
        $scope->query(['team' => $one->key])) }}">{{ $one->key }}</a></td>
        <td class="n">{{ Amount::of($measure, $one->after->amount) }}</td>
        <td class="n">{{ $total > 0 ? Quantity::percent($one->after->amount / $total) : Quantity::NONE }}</td>
        <td class="n">{{ Amount::of($measure, $one->before->amount) }}</td>
        <td>{{ Amount::against($one->before->amount, $one->after->amount) }}</td>
        <td class="n">{{ Quantity::count($one->after->executions) }}</td>
        <td class="n">{{ Quantity::count($one->before->executions) }}</td></tr>@endforeach
    <tr class="sum"><th scope="row">all</th><td class="n">{{ Amount::of($measure, $total) }}</td><td class="n"></td>
        <td class="n">{{ Amount::of($measure, $page->teams->before->amount) }}</td>
        <td>{{ Amount::against($page->teams->before->amount, $total) }}</td>
        <td class="n">{{ Quantity::count($page->teams->after->executions) }}</td>
        <td class="n">{{ Quantity::count($page->teams->before->executions) }}</td></tr></tbody></x-table>
    <p class="quiet small">{{ ucfirst($scope->days->describe()) }} against {{ $scope->againstText }} ({{ $scope->against->describe() }}),
        whole days by the clocks of the estate. A team is the one somebody belonged to on the day; what belongs to nobody is
        "unassigned".</p>
    <div class="tools"><a href="{{ address('usage.why') }}?{{ http_build_query($scope->query()) }}">Why it changed</a>
        <a href="{{ address('usage.forecast') }}?{{ http_build_query(Illuminate\Support\Arr::except($scope->query(), 'days')) }}">Where the
            month will end</a>
        <x-exports route="usage.export" :query="$scope->query()" /></div>
    @foreach([UsageField::Application, UsageField::Person, UsageField::Statement] as $field)
    <h2>{{ ucfirst($field->plural()) }} that used most</h2>
    <x-table :name="ucfirst($field->plural()).' that used most'"><thead><tr><th scope="col">{{ ucfirst($field->value) }}</th>
        <th scope="col" class="n">{{ ucfirst($measure->label()) }}</th><th scope="col" class="n">Share</th><th scope="col">Change</th>
        <th scope="col" class="n">Executions</th></tr></thead>
    <tbody>@foreach($page->most[$field->value] as $one)<tr data-row><td @class(['statement' => $field === UsageField::Statement])>
        @if($field === UsageField::Statement)<a class="mono small" href="{{ address('statement.show', $one->key) }}?{{ http_build_query(
            array_filter(['cluster' => $scope->cluster->slug ?? null, 'window' => 'last 28 days'])) }}">{{
            Sql::line($page->texts[$one->key] ?? $one->key, 130) }}</a>@else<a href="{{ address('usage.why') }}?{{ http_build_query(
            $scope->query([$field->value => $one->key, 'by' => $field->deeper()?->value])) }}">{{ $one->key }}</a>@endif</td>
        <td class="n">{{ Amount::of($measure, $one->after->amount) }}</td>
        <td class="n">{{ $total > 0 ? Quantity::percent($one->after->amount / $total) : Quantity::NONE }}</td>
        <td>{{ Amount::against($one->before->amount, $one->after->amount) }}</td>
        <td class="n">{{ Quantity::count($one->after->executions) }}</td></tr>@endforeach</tbody></x-table>
    @endforeach
    @if($page->tables !== [])
    <h2>Tables that were used most</h2>
    <x-table name="Tables that were used most"><thead><tr><th scope="col">Table</th>
        <th scope="col" class="n">{{ ucfirst($measure->label()) }}</th><th scope="col" class="n">Share</th><th scope="col">Change</th>
        <th scope="col" class="n">Executions that used it</th></tr></thead>
    <tbody>@foreach($page->tables as $one)<tr data-row><td class="mono">{{ $one->key }}</td>
        <td class="n">{{ Amount::of($measure, $one->after->amount) }}</td>
        <td class="n">{{ $total > 0 ? Quantity::percent($one->after->amount / $total) : Quantity::NONE }}</td>
        <td>{{ Amount::against($one->before->amount, $one->after->amount) }}</td>
        <td class="n">{{ Quantity::count($one->after->executions) }}</td></tr>@endforeach</tbody></x-table>
    <p class="quiet small">What a statement used is shared among the tables it names: by the bytes it read of each where a measured plan
        tells, else evenly. All tables together are all use.</p>
    @endif
    @if($page->corrections !== [])
    <h2>Corrected since</h2>
    <x-table name="Days corrected since they were closed"><thead><tr><th scope="col">Day</th><th scope="col">Cluster</th>
        <th scope="col">Corrected</th></tr></thead>
    <tbody>@foreach($page->corrections as $one)<tr>
        <td class="nowrap">{{ onUtc((int) $one->day_at, App\Platform\Support\MomentStyle::Day) }}</td><td>{{ $one->name }}</td>
        <td class="nowrap">{{ moment((int) $one->corrected_at * 1_000_000) }}</td></tr>@endforeach</tbody></x-table>
    @endif
    @endif
</div>
</x-layout>
