@php use App\Platform\Support\Money; use Fulcrion\Core\Text\Quantity; @endphp
<x-layout title="Budgets" bench="meter" sub="budgets">
<div class="reading">
    <h1>{{ $sentence }}</h1>
    @if($figure === null)<x-empty>A budget is what a team, a cluster or all of them may cost in a month or quarter. It stops nothing: it
        tells who spends it faster than the time goes by.</x-empty>@else
    <x-figure :figure="$figure" name="Budgets" />
    <x-table name="Budgets"><thead><tr><th scope="col">Whose</th><th scope="col">Period</th><th scope="col" class="n">Budget</th>
        <th scope="col" class="n">Spent</th><th scope="col" class="n">Share</th><th scope="col" class="n">Left</th>
        <th scope="col" class="n">Expected</th><th scope="col" class="n">Between</th><th scope="col">Standing</th>
        <th scope="col">Set by</th>@can('limit')<th scope="col">Limit</th>@endcan</tr></thead>
    <tbody>@foreach($budgets as $one)<tr data-row><td>@if($one->of === 'team')<a href="{{ address('team.show', ['team' => $one->name])
        }}">{{ $one->name }}</a>@elseif($one->of === 'cluster')<a href="{{ address('cost.index') }}?cluster={{ $one->name }}">{{
        $one->whose() }}</a>@else<a href="{{ address('cost.index') }}">{{ $one->whose() }}</a>@endif</td>
        <td class="nowrap">{{ $one->days->describe() }}</td><td class="n">{{ Money::exact($one->amount, $one->currency) }}</td>
        @if($one->use === null)<td></td><td></td><td></td><td></td><td></td>@else
        <td class="n">{{ Money::exact($one->use->used, $one->currency) }}</td>
        <td class="n">{{ Quantity::percent($one->use->share()) }}</td>
        <td class="n">{{ Money::exact($one->use->left()->toScale(2, Brick\Math\RoundingMode::HALF_UP), $one->currency) }}</td>
        @php($range = $one->forecast?->range(0.8))<td class="n">{{ $one->forecast === null ? '' : Money::short($one->forecast->expected(),
        $one->currency) }}</td><td class="n">{{ $range === null ? '' : Money::short($range[0], '').' and '.Money::short($range[1], '')
        }}</td>@endif
        <td><x-state :is="$one->mark()">{{ $one->standing() }}</x-state></td><td>{{ $one->madeBy }}</td>
        @can('limit')<td class="nowrap">@if($one->of !== 'estate' && $one->period === Fulcrion\Core\Cost\BudgetPeriod::Month)<a
        href="{{ address('limit.index', ['of' => "{$one->of} {$one->name}", 'measure' => 'cost', 'period' => 'month', 'amount' =>
        (string) $one->amount]) }}#set">Set a limit</a>@endif</td>@endcan</tr>@endforeach</tbody></x-table>
    <p class="quiet small">Expected: modelled from the cost of each day up to yesterday. Between: four of five such forecasts end there;
        empty where too little of the past is known.</p>
    @endif
    @can('price')
    <h2>Set a budget</h2>
    <form class="form-grid" method="post" action="{{ address('budget.set') }}">@csrf
        <label for="b-of">Whose</label><select class="form-select" id="b-of" name="of">
        <optgroup label="Teams">@foreach($teams as $one)<option value="team:{{ $one }}" @selected(old('of') === "team:{$one}")>{{ $one
        }}</option>@endforeach</optgroup>
        <optgroup label="Clusters">@foreach($clusters as $one)<option value="cluster:{{ $one->slug }}" @selected(old('of')
            === "cluster:{$one->slug}")>{{ $one->name }}</option>@endforeach</optgroup>
        <option value="estate" @selected(old('of') === 'estate')>all clusters</option></select>
        @error('of')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="b-period">For each</label><select class="form-select" id="b-period" name="period">
        @foreach(Fulcrion\Core\Cost\BudgetPeriod::cases() as $one)<option @selected(old('period') === $one->value)>{{ $one->value }}
        </option>@endforeach</select>
        <label for="b-amount">Amount</label><input class="form-control" id="b-amount" name="amount" required inputmode="decimal"
        value="{{ old('amount') }}">@error('amount')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="b-currency">Currency</label><input class="form-control" id="b-currency" name="currency" required maxlength="3"
        value="{{ old('currency', config('fulcrion.currency')) }}">@error('currency')<span class="hint bad-text" role="alert">{{ $message
        }}</span>@enderror
        <label for="b-from">From the month</label><input class="form-control" id="b-from" name="from" required placeholder="2026-12"
        value="{{ old('from', $month) }}">@error('from')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="b-shares">Say so at, percent</label><input class="form-control" id="b-shares" name="shares" placeholder="80, 100"
        value="{{ old('shares', '80, 100') }}">@error('shares')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="b-recipient">Write to</label><input class="form-control" id="b-recipient" name="recipient" type="email" maxlength="190"
        value="{{ old('recipient') }}">@error('recipient')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <span></span><p class="hint quiet">It holds until another one of the same is set; an amount of 0 ends it.</p>
        <span></span><div><button class="btn btn-primary">Set it</button></div>
    </form>
    @else<p class="quiet">Owners set budgets.</p>@endcan
</div>
</x-layout>
