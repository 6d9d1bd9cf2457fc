@php
    use App\Cost\Application\ClusterCost; use App\Cost\Application\CostPage; use App\Cost\Application\WorkerUse;
    use App\Platform\Support\MomentStyle;
    use Fulcrion\Core\Cost\Allocation;
    use App\Telemetry\Usage\UsageField; use App\Cost\Http\CostController;
    use Fulcrion\Core\Text\Quantity;
    $scope = $page->scope;
@endphp
<x-layout title="Cost" bench="meter" sub="cost">
<div class="reading">
    <h1>{{ $page->sentence() }}</h1>
    <x-filters :to="address('cost.index')">
    <div><label for="c-days">Days</label><input class="form-control" id="c-days" name="days" value="{{ $scope->text }}" list="c-spans"
        autocomplete="off" @if($scope->complaint) aria-describedby="c-complaint" aria-invalid="true" @endif><datalist id="c-spans">
        <option>this month</option><option>last month</option><option>last 7 days</option></datalist></div>
    <div><label for="c-cluster">Cluster</label><select class="form-select" id="c-cluster" name="cluster"><option value="">all</option>
        @foreach($clusters as $one)<option value="{{ $one->slug }}" @selected($one->slug === ($scope->cluster->slug ?? ''))>{{ $one->name }}
        </option>@endforeach</select></div>
    <div><label for="c-by">By</label><select class="form-select" id="c-by" name="by">@foreach(UsageField::ofCost() as $one)
        <option value="{{ $one->value }}" @selected($one->value === $page->byKey())>{{ $one->label() }}</option>@endforeach
        <option value="{{ CostPage::TABLES }}" @selected($page->byTables)>table</option></select></div>
    @if($page->team() !== null)<input type="hidden" name="team" value="{{ $page->team() }}"><div><span class="quiet">Only {{
        $page->team() }}</span> <a href="{{ address('cost.index') }}?{{ http_build_query($scope->query(['team' => null])) }}">all
        teams</a></div>@endif
    </x-filters>
    @if($scope->complaint !== null)<div class="notice bad" role="alert" id="c-complaint">{{ $scope->complaint }} The last seven days are
        shown instead.</div>@endif
    @if($page->clusters === [])<x-empty>Cost is computed from the price book of each cluster and recorded usage. <a href="{{
        address('cost.prices') }}">Write down the first price</a>.</x-empty>@else
    {!! App\Platform\Figures\StackFigure::legend('cost', ['fixed', 'by use']) !!}
    <x-figure :figure="$page->figure()" :name="'Cost by '.$page->byLabel()" />
    <h2>By {{ $page->byLabel() }}</h2>
    <x-table :name="'Cost by '.$page->byLabel()" :export="false" :columns="true"><thead><tr>
        <th scope="col">{{ ucfirst($page->byLabel()) }}</th>
        <th scope="col" class="n">Fixed</th><th scope="col" class="n">By use</th><th scope="col" class="n">All</th>
        @if($remedies !== [])<th scope="col">Open finding that would save most</th>@endif</tr></thead>
    <tbody>@foreach($page->foremost(CostController::MOST) as $part => $cost)<tr data-row><td>
        @if($part === Allocation::IDLE)<span class="quiet">idle: nobody ran anything</span>
        @elseif($part === WorkerUse::JOBS)<a href="{{ address('job.index') }}">workers of jobs</a>
        @elseif($part === ClusterCost::RESERVED)<span class="quiet">reserved and not used</span>
        @elseif($part === CostPage::OTHER)<span class="quiet">all others</span>
        @elseif($page->byTables)<span class="mono">{{ $part }}</span>
        @elseif($page->by === UsageField::Statement)<a href="{{ address('statement.show', $part) }}">{{ $page->name($part) }}</a>
        <code class="small">{{ mb_strimwidth((string) preg_replace('~\s+~', ' ', $texts[$part] ?? ''), 0, 90, '…') }}</code>
        @else<a href="{{ address($page->by === UsageField::Team ? 'cost.index' : 'usage.why') }}?{{ http_build_query(
            $scope->query([$page->by->value => (string) $part, 'by' => 'statement'])) }}">{{ $part }}</a>
        @endif</td><td class="n">{{ $page->money($cost['shared']) }}</td><td class="n">{{ $page->money($cost['own']) }}</td>
        <td class="n"><strong>{{ $page->money($cost['all']) }}</strong></td>
        @if($remedies !== [])<td>@isset($remedies[$part])<a href="{{ address('finding.show', $remedies[$part]['finding']) }}">about {{
            $page->money($remedies[$part]['month']) }} a month</a> <span class="quiet small">{{
            $remedies[$part]['problem'] }}</span>@endisset</td>@endif</tr>@endforeach
    <tr class="sum"><th scope="row">all</th><td class="n"></td><td class="n"></td><td class="n">{{ $page->money($page->total()) }}</td>
        @if($remedies !== [])<td></td>@endif</tr>
    </tbody></x-table>
    @if($page->byTables)<p class="quiet small">What a statement costs is shared among the tables it names: by the bytes it read of each
        where a measured plan tells, else evenly. Storage is each table's own, by its size on each day{{ $page->team() === null
        && ! $page->isLimited() ? '' : ', where all teams are looked at; of some of them it follows their use' }}.</p>@endif
    @if($remedies !== [])<p class="quiet small">What a finding would save is modelled: the part of a statement's time in flight that the
        finding explains, of its full cost. Nodes are paid for until fewer are needed.</p>@endif
    <p class="quiet small">Fixed: nodes and fees, which cost the same whoever runs what. By use: what its own use made, such as bytes
        scanned or workers of jobs at a price. The full cost is both; its marginal cost, which would be saved without it, is the cost by
        use alone.
        Parts are whole cents and add up to the cost: cents left over go to the largest remainders.</p>
    <div class="tools"><x-exports route="cost.export" :query="$scope->query(['by' => $page->byKey()])" />
        @if(! $page->isLimited())
        <span class="small">Costs in the open format:
        @foreach(['csv', 'parquet'] as $word)<a href="{{ address('cost.focus', $word) }}?{{ http_build_query($scope->query()) }}">{{
            strtoupper($word) }}</a> @endforeach</span>
        @endif</div>
    @foreach($page->isLimited() ? [] : $page->clusters as $cost)
    <h2>{{ $cost->cluster->name }}</h2>
    <p>{{ $page->money($cost->total()) }}; something ran in {{ Quantity::percent($cost->busy) }} of its time. Fixed cost
        follows {{ $cost->rule->follows->label() }}; idle time is {{ $cost->rule->idle->label() }}. <a href="{{
        address('cost.prices') }}?cluster={{ $cost->cluster->slug }}">Its prices</a></p>
    <x-table :name="'Lines of '.$cost->cluster->name"><thead><tr><th scope="col">What</th><th scope="col" class="n">Quantity</th>
        <th scope="col" class="n">Price</th><th scope="col" class="n">Amount</th><th scope="col">From</th></tr></thead>
    <tbody>@foreach($cost->summed() as $line)<tr data-row><td>{{ $line->kind->label() }}{{ $line->name === '' ? '' : ", {$line->name}" }}
        </td><td class="n">{{ $line->quantity->toScale(3, Brick\Math\RoundingMode::HALF_UP)->stripTrailingZeros() }}</td>
        <td class="n">{{ $line->price->stripTrailingZeros() }}</td><td class="n">{{ $page->money($line->amount) }}</td>
        <td class="nowrap">{{ onClocks($line->from, MomentStyle::Minute) }}</td></tr>@endforeach</tbody>
    </x-table>
    @endforeach
    @if($page->others !== [])<p>In another currency and not added: {{ implode(', ', array_map(fn ($one) => $one->name, $page->others)) }}.
        Choose one of them above.</p>@endif
    @endif
    @if($page->without !== [] && $page->clusters !== [])<p class="quiet">Without a price: {{ implode(', ', array_map(
        fn ($one) => $one->name, $page->without)) }}. <a href="{{ address('cost.prices') }}">Prices</a></p>@endif
</div>
</x-layout>
