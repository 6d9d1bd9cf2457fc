@php
    use App\Telemetry\Usage\Amount; use App\Cost\Application\TeamAccounts; use App\Telemetry\Usage\UsageField;
    use Fulcrion\Core\Usage\UsageMeasure;
    $scope = $account->scope;
    $measure = $account->measure();
    $of = fn (array $more = []): string => http_build_query($scope->query($more));
@endphp
{{-- What a statement of account says, in a page and in the files that leave the house. --}}
@if($account->costs !== [])
<h2>Cost</h2>
<x-table name="Cost by cluster" class="narrow" :export="false" :sorts="false"><thead><tr><th scope="col">Cluster</th>
    <th scope="col" class="n">Fixed</th><th scope="col" class="n">By use</th><th scope="col" class="n">All</th><th scope="col" class="n">{{
    ucfirst($scope->against->describe()) }}</th></tr></thead>
<tbody>@foreach($account->costs as $one)<tr><td>{{ $one->cluster }}</td><td class="n">{{ $account->money($one->fixed()) }}</td>
    <td class="n">{{ $account->money($one->own) }}</td><td class="n">{{ $account->money($one->all()) }}</td>
    <td class="n">{{ $one->before === null ? 'not known' : $account->money($one->before) }}</td></tr>@endforeach
<tr class="sum"><th scope="row">all</th><td class="n"></td><td class="n"></td><td class="n">{{ $account->money($account->total()) }}</td>
    <td class="n">{{ $account->totalBefore() === null ? '' : $account->money($account->totalBefore()) }}</td></tr></tbody></x-table>
<p class="quiet small">Fixed: its part of nodes, fees and storage, and what it reserved and did not use. By use: what its own use made,
    and so what would be saved without it. Computed from the price book and recorded usage; parts are whole cents and add up.</p>
@endif
@foreach($account->budgets as $budget)
@if($loop->first)<h2>Budget</h2>@endif
<p>{{ App\Platform\Support\Money::exact($budget->amount, $budget->currency) }} for {{
    $budget->days->describe() }}@if($budget->use !== null): {{
    App\Platform\Support\Money::exact($budget->use->used, $budget->currency) }} spent, {{
    Fulcrion\Core\Text\Quantity::percent($budget->use->share()) }} of it, when {{
    Fulcrion\Core\Text\Quantity::percent($budget->use->gone) }} of the time {{ $budget->use->gone >= 1 ? 'was' : 'is' }} over.@else.@endif
    <x-state :is="$budget->mark()">{{ $budget->standing() }}</x-state>
    @if($linked) <a href="{{ address('budget.index') }}">All budgets</a>@endif</p>
@endforeach
@php($why = $account->costs === [] || ! $account->knowsBefore ? null : $account->why())
@if($why !== null && ! $account->total()->isEqualTo($account->totalBefore()))
<h2>Why its cost changed</h2>
<x-table name="Why its cost changed" class="narrow" :export="false" :sorts="false"><thead><tr><th scope="col">Because of</th>
    <th scope="col" class="n">Change</th></tr></thead>
<tbody>@foreach($why as [$what, $amount])@if(! $amount->isZero())<tr><td>{{ $what }}</td><td class="n">{{
    $account->moneyChange($amount) }}</td></tr>@endif @endforeach
<tr class="sum"><th scope="row">together</th><td class="n">{{
    $account->moneyChange($account->total()->minus($account->totalBefore())) }}</td></tr></tbody></x-table>
<p class="quiet small">What statements did is told at what a unit of use cost before; what a unit of use costs is the rest of the fixed
    cost, to the cent.</p>
@endif
@if($account->unpriced !== [])<p class="quiet">Without a price, or priced in another currency, and not added: {{
    implode(', ', $account->unpriced) }}.</p>@endif
<h2>Use</h2>
<x-table name="Use" class="narrow" :export="false" :sorts="false"><thead><tr><th scope="col">Measure</th><th scope="col" class="n">{{
    ucfirst($scope->days->describe()) }}</th><th scope="col" class="n">{{ ucfirst($scope->against->describe()) }}</th>
    <th scope="col">Change</th></tr></thead>
<tbody>@foreach(UsageMeasure::cases() as $one)@php([$before, $after] = $account->use[$one->value])<tr>
    <td>{{ $one->label() }}</td><td class="n">{{ Amount::of($one, $after->amount) }}</td>
    <td class="n">{{ $account->knowsBefore ? Amount::of($one, $before->amount) : 'not known' }}</td><td>{{ $account->knowsBefore
    ? Amount::against($before->amount, $after->amount) : '' }}</td></tr>
@endforeach</tbody></x-table>
@if(! $account->knowsBefore)<p class="quiet">Use is not known of all of {{ $scope->against->describe() }}, so nothing can be said of what
    changed.</p>
@elseif($account->bridge->changes !== [])
<h2>What changed, and why</h2>
@if($account->reason() !== '')<p>{{ $account->reason() }}.@if($linked) <a href="{{ address('usage.why') }}?{{ $of(['by' => 'application'])
    }}">All parts of it</a>@endif</p>@endif
<x-table name="What changed" :export="false" :sorts="false"><thead><tr><th scope="col">Statement</th><th scope="col" class="n">Change</th>
    <th scope="col" class="n">New or gone</th><th scope="col" class="n">By executions</th><th scope="col" class="n">Per execution</th>
    </tr></thead>
<tbody>@foreach(array_slice($account->bridge->changes, 0, TeamAccounts::CHANGES) as $one)@if($one->change() !== 0)<tr>
    <td class="statement">@if($linked)<a href="{{ address('statement.show', $one->key) }}">{{ $account->name($one->key) }}</a>@else{{
    $account->name($one->key) }}@endif</td><td class="n">{{ Amount::change($measure, $one->change()) }}</td>
    <td class="n">{{ Amount::change($measure, $one->new + $one->gone) }}</td>
    <td class="n">{{ Amount::change($measure, $one->moreExecutions) }}</td>
    <td class="n">{{ Amount::change($measure, $one->moreEach) }}</td></tr>@endif @endforeach
@php([, $rest] = $account->bridge->foremost(TeamAccounts::CHANGES))
@if($rest !== 0)<tr><td class="quiet">all others</td><td class="n">{{ Amount::change($measure, $rest) }}</td><td></td><td></td><td></td>
    </tr>@endif
<tr class="sum"><th scope="row">together</th><td class="n">{{ Amount::change($measure, $account->bridge->change()) }}</td>
    @foreach([$account->bridge->parts()['new'] + $account->bridge->parts()['gone'], $account->bridge->parts()['moreExecutions'],
    $account->bridge->parts()['moreEach']] as $part)<td class="n">{{ Amount::change($measure, $part) }}</td>@endforeach</tr>
</tbody></x-table>
@endif
@if($account->statements !== [])
<h2>Its most expensive statements</h2>
<p>{{ $account->few() }} of {{ count($account->statements) }} {{ Str::plural('statement', count($account->statements)) }} {{
    $account->few() === 1 ? 'makes' : 'make' }} four fifths of its cost.</p>
<x-table name="Most expensive statements" :export="false" :sorts="false"><thead><tr><th scope="col">Statement</th>
    <th scope="col" class="n">Cost</th><th scope="col">Open finding that would save most</th></tr></thead>
<tbody>@foreach(array_slice($account->statements, 0, TeamAccounts::STATEMENTS, true) as $statement => $cost)<tr>
    <td class="statement">@if($linked)<a href="{{ address('statement.show', $statement) }}">{{ $account->name((string) $statement) }}</a>
    @else{{ $account->name((string) $statement) }}@endif</td><td class="n">{{ $account->money($cost) }}</td>
    <td>@isset($account->remedies[$statement])@php($remedy = $account->remedies[$statement])about {{ $account->money($remedy['month'])
    }} a month: @if($linked)<a href="{{ address('finding.show', $remedy['finding']) }}">{{ $remedy['problem'] }}</a>@else{{
    $remedy['problem'] }}@endif @endisset</td></tr>@endforeach</tbody></x-table>
<p class="quiet small">What a finding would save is modelled: the part of a statement's time in flight that it explains, of its full cost.
    Nodes are paid for until fewer are needed.</p>
@endif
@if($account->savings !== [])
<h2>Saved by changes since</h2>
<x-table name="Saved" class="narrow" :export="false" :sorts="false"><thead><tr><th scope="col">Change</th>
    <th scope="col" class="n">Saves a month</th></tr></thead>
<tbody>@foreach($account->savings as $one)<tr><td>@if($linked)<a href="{{ address('change.show', $one['change']) }}">{{ $one['title']
    }}</a>@else{{ $one['title'] }}@endif</td><td class="n">{{ App\Platform\Support\Money::exact($one['month'], $one['currency']) }}</td>
    </tr>@endforeach</tbody></x-table>
<p class="quiet small">The part of each saving that the team's own executions had; how savings are measured stands on the page of savings.
    </p>
@endif
