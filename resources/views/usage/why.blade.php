@php
    use App\Telemetry\Usage\Amount; use App\Telemetry\Usage\UsageField; use Fulcrion\Core\Text\Quantity;
    $scope = $page->scope;
    $measure = $scope->measure;
    $parts = $page->bridge->parts();
@endphp
<x-layout title="Why it changed" bench="meter" sub="why">
<div class="reading">
    <p class="trail">@foreach($page->trail() as [$name, $address])@if(! $loop->first) / @endif<a href="{{ $address }}" @if($loop->last)
        aria-current="true" @endif>{{ mb_strimwidth($name, 0, 60, '…') }}</a>@endforeach</p>
    <h1>{{ $page->sentence() }}</h1>
    @include('usage.filters', ['to' => address('usage.why'), 'by' => $page->by])
    @if($page->figure === null)<x-empty>In neither period anything was used that matches. <a href="{{ address('usage.why') }}">Look at all
        use</a>.</x-empty>@else
    <div class="split by"><span class="quiet">by</span>@foreach(UsageField::steps() as $field)<a class="choice" href="{{
        address('usage.why') }}?{{ http_build_query($scope->query(['by' => $field->value])) }}" @if($field === $page->by)
        aria-current="true" @endif>{{ $field->label() }}</a>@endforeach</div>
    <x-figure :figure="$page->figure" name="What changed" />
    <h2>Of which</h2>
    <x-facts>
        <tr><th scope="row">new {{ $page->by->plural() }}</th><td>{{ Amount::change($measure, $parts['new']) }}</td></tr>
        <tr><th scope="row">gone</th><td>{{ Amount::change($measure, $parts['gone']) }}</td></tr>
        <tr><th scope="row">more or fewer executions</th><td>{{ Amount::change($measure, $parts['moreExecutions']) }}</td></tr>
        <tr><th scope="row">more or less per execution</th><td>{{ Amount::change($measure, $parts['moreEach']) }}</td></tr>
        <tr><th scope="row">together</th><td><strong>{{ Amount::change($measure, $page->bridge->change()) }}</strong>, from {{
            Amount::of($measure, $page->bridge->before->amount) }} to {{ Amount::of($measure, $page->bridge->after->amount) }}</td></tr>
    </x-facts>
    <h2>By {{ $page->by->value }}</h2>
    <x-table :name="'Change by '.$page->by->value" :export="false" :columns="true"><thead><tr>
        <th scope="col">{{ ucfirst($page->by->value) }}</th>
        <th scope="col" class="n">Change</th><th scope="col" class="n">Before</th><th scope="col" class="n">After</th>
        <th scope="col" class="n">New or gone</th><th scope="col" class="n">By executions</th><th scope="col" class="n">Per execution</th>
        <th scope="col" class="n">Executions before</th><th scope="col" class="n">Executions</th></tr></thead>
    <tbody>@foreach(array_slice($page->bridge->changes, 0, 50) as $one)<tr data-row><td @class(['statement' => $page->by ===
        UsageField::Statement])><a href="{{ $page->deeper($one->key) }}">{{ mb_strimwidth($page->name($one->key), 0, 120, '…') }}</a></td>
        <td class="n">{{ Amount::change($measure, $one->change()) }}</td>
        <td class="n">{{ Amount::of($measure, $one->before->amount) }}</td>
        <td class="n">{{ Amount::of($measure, $one->after->amount) }}</td>
        <td class="n">{{ Amount::change($measure, $one->new + $one->gone) }}</td>
        <td class="n">{{ Amount::change($measure, $one->moreExecutions) }}</td>
        <td class="n">{{ Amount::change($measure, $one->moreEach) }}</td>
        <td class="n">{{ Quantity::count($one->before->executions) }}</td><td class="n">{{ Quantity::count($one->after->executions) }}</td>
        </tr>@endforeach</tbody></x-table>
    @if(count($page->bridge->changes) > 50)<p class="quiet small">The 50 that changed most of {{ count($page->bridge->changes) }}; the
        export has all.</p>@endif
    <p class="quiet small">More executions: what those that came on top would have used as each did before. Per execution: the rest. {{
        ucfirst($scope->days->describe()) }} against {{ $scope->against->describe() }}.</p>
    <div class="tools"><x-exports route="usage.export" :query="$scope->query(['by' => $page->by->value])" /></div>
    @endif
</div>
</x-layout>
