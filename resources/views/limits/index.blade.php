@php use Fulcrion\Core\Limits\LimitMeasure; use Fulcrion\Core\Limits\LimitPeriod;
    use Fulcrion\Core\Text\Quantity; $said = fn (string $field, string $else = '') => old($field, request()->query($field, $else)); @endphp
<x-layout title="Limits" bench="meter" sub="limit">
<div class="reading">
    <h1>{{ $sentence }}</h1>
    @if($figure !== null)<x-figure :figure="$figure" name="Limits in force" />@endif
    @if($rows === [])<x-empty>A limit is how much a person, team, application, queue or cluster may use in a day, week or month, and what
        is done on the way there: note it, tell somebody, or hold new statements. It can be tried on the last four weeks before it is
        switched on.</x-empty>@else
    <x-table name="Limits"><thead><tr><th scope="col">Whose</th><th scope="col">Measure</th><th scope="col">In each</th>
        <th scope="col" class="n">Limit</th><th scope="col" class="n">Used</th><th scope="col" class="n">Share</th><th scope="col">Acts</th>
        <th scope="col" class="n">Held</th><th scope="col">Standing</th><th scope="col">Set by</th></tr></thead>
    <tbody>@foreach($rows as $one)@php($limit = $one->limit->limit)<tr data-row><td><a
        href="{{ address('limit.show', $one->limit->id) }}">{{ $one->limit->whose() }}</a></td>
        <td>{{ $limit->measure->label() }}</td><td>{{ $limit->period->value }}</td>
        <td class="n">{{ $one->limit->amount($limit->amount) }}</td><td class="n">{{ $one->used === null ? ''
        : $one->limit->amount($one->used) }}</td><td class="n">{{ $one->share() === null ? '' : Quantity::percent($one->share()) }}</td>
        <td class="nowrap">{{ implode(', ', array_map(fn ($some) => "{$some->percent}% {$some->act->value}", $limit->thresholds)) }}</td>
        <td class="n">{{ $one->held }}</td><td class="nowrap"><x-state :is="$one->mark()">{{ $one->standing() }}</x-state></td>
        <td>{{ $one->limit->madeBy }}</td></tr>@endforeach</tbody></x-table>
    @endif
    <p class="quiet">Held is what is sent through this application: from the workbench and as jobs. What others send to a server is counted
        and told, not held; what a live server can hold itself are the <a href="{{ address('limit.accounts') }}">limits of its
        accounts</a>.</p>
    @can('limit')
    <h2 id="set">Set a limit</h2>
    <form class="form-grid" method="post" action="{{ address('limit.store') }}">@csrf
        <label for="l-of">Whose</label><input class="form-control" id="l-of" name="of" required maxlength="210" autocomplete="off"
        list="l-names" placeholder="team forecast_lab" value="{{ $said('of') }}"><datalist id="l-names">@foreach($names as $one)<option
        value="{{ $one }}"></option>@endforeach</datalist>
        @error('of')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="l-measure">Measure</label><select class="form-select" id="l-measure" name="measure">
        @foreach(LimitMeasure::cases() as $one)<option value="{{ $one->value }}" @selected($said('measure')
        === $one->value)>{{ $one->label() }}</option>@endforeach</select>
        @error('measure')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="l-period">In each</label><select class="form-select" id="l-period" name="period">
        @foreach([LimitPeriod::Day, LimitPeriod::Week, LimitPeriod::Month, LimitPeriod::Statement] as $one)<option value="{{ $one->value }}"
        @selected($said('period', 'week') === $one->value)>{{ $one === LimitPeriod::Statement ? 'single statement' : $one->value }}</option>
        @endforeach</select>@error('period')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        @include('limits.amount', ['kept' => null])
        <span></span><p class="hint quiet">It does nothing until it is switched on. First you see what it would have done in the last four
            weeks.</p>
        <span></span><div><button class="btn btn-primary">Try it on the past</button></div>
    </form>
    @else<p class="quiet">Engineers and owners set limits.</p>@endcan
</div>
</x-layout>
