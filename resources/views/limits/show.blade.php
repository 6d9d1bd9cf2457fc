@php use App\Limits\Application\LimitPage; use App\Limits\Application\LimitState; use App\Platform\Support\MomentStyle;
    use Fulcrion\Core\Limits\LimitPeriod; use Fulcrion\Core\Text\Quantity; $kept = $page->limit; $limit = $kept->limit;
    $isSingle = $limit->period === LimitPeriod::Statement; @endphp
<x-layout :title="$kept->title()" bench="meter" sub="limit">
<div class="reading">
    <p class="quiet"><a href="{{ address('limit.index') }}">Limits</a></p>
    <h1>{{ $kept->state === LimitState::Tried ? $past->sentence() : $page->sentence() }}</h1>
    <p><x-state :is="$page->row->mark()">{{ $page->row->standing() }}</x-state>
        <span class="quiet">{{ ucfirst($kept->title()) }}; set by {{ $kept->madeBy }}, {{ moment($kept->madeUs,
        MomentStyle::Day) }}</span></p>
    @if($kept->state !== LimitState::Tried)
    @if(count($page->periods) > 1)<p class="choice-line">@foreach($page->periods as $one)<a
        href="{{ address('limit.show', [$kept->id]) }}?from={{ gmdate('Y-m-d', $one) }}" @if($one === $page->days->from)
        aria-current="true"@endif>{{ $limit->period->days($one)->describe() }}</a>
        @endforeach</p>@endif
    <x-figure :figure="$figure" name="The present period" />
    @if($page->isPresent && $page->running[1] > 0)<p class="quiet">{{ $page->running[1] === 1 ? '1 statement runs'
        : "{$page->running[1]} statements run" }} now; {{ $kept->amount($page->running[0]) }} expected of them.</p>@endif
    @endif
    @can('lift')@if($kept->state === LimitState::On)
    @if($page->row->isLifted)<form class="acts" method="post" action="{{ address('limit.end-lift', $kept->id) }}">@csrf
        <p>Lifted until {{ moment($kept->liftedUntilUs, MomentStyle::Minute) }}.</p><button class="btn btn-line">Set the hold again</button>
        </form>
    @elseif($limit->holdsAt() !== null)
    <h2 id="lift">Lift the hold</h2>
    <form class="form-grid" method="post" action="{{ address('limit.lift', $kept->id) }}">@csrf
        <label for="l-until">For, or until</label><input class="form-control" id="l-until" name="until" required maxlength="40"
        value="{{ old('until', '4 h') }}">@error('until')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="l-reason">Why</label><input class="form-control" id="l-reason" name="reason" required maxlength="500" value="{{
        old('reason') }}">@error('reason')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <span></span><div><button class="btn btn-line">Lift it</button></div>
    </form>@endif
    @endif @endcan
    @if($page->refusals !== [])
    <h2>Held</h2>
    <p class="quiet">{{ implode(', ', array_map(fn ($login, $count) => ($login === '' ? '(none)' : $login).": {$count}",
        array_keys($page->senders), $page->senders)) }}</p>
    <x-table name="Held statements"><thead><tr><th scope="col">When</th><th scope="col">Who</th><th scope="col">Application</th>
        <th scope="col">Cluster</th><th scope="col">Statement</th><th scope="col">What was done</th></tr></thead>
    <tbody>@foreach($page->refusals as $one)<tr data-row><td class="nowrap">{{ moment((int) $one->at_us, MomentStyle::Second) }}</td>
        <td>{{ $one->login }}</td><td>{{ $one->application }}</td><td>{{ $one->cluster }}</td><td class="mono small">@if($one->fingerprint
        === '')a job @elseif(isset($known[$one->fingerprint]))<a href="{{ address('statement.show', $one->fingerprint) }}?cluster={{
        $one->slug }}">{{ substr($one->fingerprint, 0, 8) }}</a>@else{{ substr($one->fingerprint, 0, 8) }}@endif</td>
        <td>{{ LimitPage::how($one->how) }}</td></tr>@endforeach</tbody></x-table>
    @endif
    @if($page->lifts !== [])
    <h2>Lifted</h2>
    <x-table name="Lifted holds"><thead><tr><th scope="col">When</th><th scope="col">Until</th><th scope="col">By</th>
        <th scope="col">Why</th></tr></thead><tbody>@foreach($page->lifts as $one)<tr data-row><td class="nowrap">{{
        moment((int) $one->at_us, MomentStyle::Minute) }}</td><td class="nowrap">{{ moment((int) ($one->ended_us ?? $one->until_us),
        MomentStyle::Minute) }}{{ $one->ended_us === null ? '' : ', ended by hand' }}</td><td>{{ $one->made_by }}</td><td>{{ $one->reason
        }}</td></tr>@endforeach</tbody></x-table>
    @endif
    @if($kept->state !== LimitState::Tried)
    <h2>Had it been in force</h2>
    <p>{{ $past->sentence() }}.</p>
    @endif
    <x-figure :figure="$pastFigure" name="The last four weeks" />
    @if(! $isSingle && $past->trial->wanted !== [])
    <x-table name="Past periods" class="narrow"><thead><tr><th scope="col">{{ ucfirst($limit->period->value) }}</th>
        <th scope="col" class="n">Used</th><th scope="col" class="n">Of this limit</th>
        <th scope="col">Would have held from</th></tr></thead>
    <tbody>@foreach(array_reverse($past->trial->wanted, true) as $day => $amount)<tr data-row><td class="nowrap">{{
        $limit->period->days($day)->describe() }}{{ $limit->period->days($day)->to > $today ? ', so far' : '' }}</td>
        <td class="n">{{ $kept->amount($amount) }}</td><td class="n">{{ Quantity::percent($amount / $limit->amount) }}</td>
        <td class="nowrap">{{ $past->heldFrom($day) }}</td></tr>@endforeach</tbody></x-table>
    @endif
    @if($past->trial->held !== [])
    <x-table name="Who would have been held" class="narrow"><thead><tr><th scope="col">{{ $isSingle ? 'Statement' : 'Who' }}</th>
        <th scope="col" class="n">Statements held, about</th></tr></thead>
    <tbody>@foreach(array_slice($past->trial->held, 0, 40, true) as $who => $count)<tr data-row><td class="{{ $isSingle ? 'mono small' : ''
        }}">@if($isSingle)<a href="{{ address('statement.show', $who) }}">{{ substr((string) $who, 0, 8) }}</a>@else{{ $who }}@endif</td>
        <td class="n">{{ Quantity::short(round($count)) }}</td></tr>@endforeach</tbody></x-table>
    @endif
    @can('limit')
    <div class="acts"><form method="post" action="{{ address('limit.switch', $kept->id) }}">@csrf<button @class(['btn', $kept->state
        === LimitState::On ? 'btn-line' : 'btn-primary'])>{{ $kept->state === LimitState::On ? 'Switch it off' : 'Switch it on' }}</button>
        </form><form method="post" action="{{ address('limit.remove', $kept->id) }}" data-confirm="Remove the limit of {{ $kept->whose()
        }} with all that was counted and held?">@csrf<button class="btn btn-line bad-text">Remove it</button></form></div>
    <h2>Change it</h2>
    <form class="form-grid" method="post" action="{{ address('limit.change', $kept->id) }}">@csrf
        @include('limits.amount')
        <span></span><p class="hint quiet">What was used so far stays counted; statements that run are not ended.</p>
        <span></span><div><button class="btn btn-line">Change it</button></div>
    </form>
    @endcan
</div>
</x-layout>
