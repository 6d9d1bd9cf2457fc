@php
    use Fulcrion\Core\Text\Quantity;
    $kind = $change->kind();
    $state = $change->state;
    $is = fn (string $name): bool => $state->value === $name;
    $chosen = array_column($change->workload, 'id');
    $places = $kind->places($change);
    $way = ['proposed' => $change->asked_us, 'rehearsed' => $change->rehearsed_us, 'approved' => $change->approved_us,
        'applied' => $change->applied_us];
    $who = ['proposed' => $change->asked_by, 'rehearsed' => $change->rehearsed_by, 'approved' => $change->approved_by,
        'applied' => $change->applied_by];
    // What a trial shows to be slower is not the thing to do next; what changed an answer is to be taken back first.
    $slower = $rehearsal?->holds === true && Fulcrion\Core\Proofs\Proof::isMore(1.0, $rehearsal->factor);
    $wrong = $is('applied') && $applied?->holds === false;
    $words = ['proposed' => 'It is proposed and touches nothing yet: rehearse it next', 'rehearsed' => $slower
        ? 'It was rehearsed, and made the statements slower: think again before it is approved' : ($rehearsal?->holds
        ? 'It was rehearsed, and every result stayed the same: it can be approved'
        : 'It was rehearsed, but not every statement ran with the same result: choose others or drop it'),
        'approved' => 'It is approved: it can be applied', 'applied' => $wrong
        ? 'It is applied, and not every statement runs with the same result as before: undo it first, then look why' : 'It is applied',
        'undone' => 'It was undone; the table is laid out as before', 'failed' => 'It failed; the table is as it was'][$state->value];
@endphp
<x-layout title="Change {{ $change->id }}" bench="ledger" sub="changes">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('change.index') }}">Changes</a> / {{ $change->cluster->name }} / <a href="{{
        $kind->address($change) }}">{{ Str::after($change->object, 'job:') }}</a> @if($change->finding) / <a href="{{
            address('finding.show', $change->finding_id) }}">finding {{ $change->finding_id }}</a>@endif</p>
    <h1>{{ $change->title }}</h1>
    <p>{{ $words }}.</p>
    <ol class="way" aria-label="Way of the change">@foreach($way as $step => $us)<li @class(['done' => $us !== null,
        'here' => $is($step)])><span>{{ $step }}</span>@if($us !== null)<span class="quiet small">{{ $who[$step] }}, {{
        moment($us) }}</span>@endif</li>@endforeach @if($change->undone_us)<li class="done here"><span>undone</span><span
        class="quiet small">{{ $change->undone_by }}, {{ moment($change->undone_us) }}</span></li>@endif @if($is('failed'))<li
        class="bad here"><span>failed</span><span class="quiet small">{{ moment($change->failed_us) }}</span></li>@endif</ol>
    @if($change->error && $change->doing === null)<div class="notice bad" role="alert">{{ $change->error }}</div>@endif
    @if($wrong)<div class="notice bad" role="alert">{{ ucfirst($applied->sentence) }}.</div>@endif
    @include('ledger.change-progress')
    @can('act', $change)
    @if($change->doing === null)
    <div class="acts">
        @if($state->isOpen())<form method="post" action="{{ address('change.rehearse', $change->id) }}">@csrf<button class="btn {{
            $is('rehearsed') && $rehearsal?->holds && ! $slower ? 'btn-line' : 'btn-primary' }}">{{
            $is('proposed') ? 'Rehearse' : 'Rehearse again' }}</button></form>@endif
        @if($is('rehearsed') && $rehearsal?->holds && $change->needsAnother(auth()->user()))<p
            class="quiet">Somebody else has to approve it, since you asked for it: send them the address of this page.</p>
        @elseif($is('rehearsed') && $rehearsal?->holds)<form method="post" action="{{ address('change.approve',
            $change->id) }}">@csrf<button class="btn {{ $slower ? 'btn-line' : 'btn-primary' }}">{{
            $slower ? 'Approve though it is slower' : 'Approve' }}</button></form>@endif
        @if($is('approved'))<form method="post" action="{{ address('change.apply', $change->id) }}">@csrf<button
            class="btn btn-primary">Apply on {{ $change->cluster->name }}</button></form>@endif
        @if($change->canBeUndone())<form method="post" action="{{ address('change.undo', $change->id) }}">@csrf<button class="btn {{
            $wrong ? 'btn-primary' : 'btn-line' }}">Undo</button></form>@endif
    </div>
    @endif
    @endcan
    @foreach(['applied' => $applied, 'rehearsal' => $rehearsal] as $name => $record)
        @if($record !== null)<h2>{{ $name === 'applied' ? $kind->proofTitle : 'Rehearsal' }}</h2><p><a href="{{ address('proof.show',
            $record->id) }}"><strong>{{ $record->sentence }}</strong></a>.</p>@endif
    @endforeach
    @if($live !== [])@include('ledger.live')@endif
    @if($kind->measured)
    <div class="columns">
    <section><h2>Expected</h2><x-facts>
        <tr><th scope="row">saves a week</th>
        <td>{{ $change->expected['savedUs'] > 0 ? Quantity::duration($change->expected['savedUs']).($change->worth() === '' ? ''
            : ', about '.$change->worth()).' (modelled)'
        : 'no time that could be told beforehand' }}</td></tr>
        <tr><th scope="row">bytes not read a week</th>
        <td>{{ $change->expected['savedBytes'] > 0 ? Quantity::bytes($change->expected['savedBytes']) : Quantity::NONE }}</td></tr>
        @forelse($kind->costs($change) as [$label, $text])<tr><th scope="row">{{ $label }}</th><td>{{ $text }}</td></tr>
        @empty<tr><th scope="row">costs once</th><td>{{ Quantity::duration($change->expected['costUs']) }} (modelled), reading {{
            Quantity::bytes($change->expected['costBytes']) }}</td></tr>@endforelse
        @if($change->expected['worse'] !== [])<tr><th scope="row">gets worse</th><td>{{ implode(' ', $change->expected['worse']) }}</td>
        </tr>@endif
        @if($change->checksum_before)<tr><th scope="row">contents</th><td class="mono">{{ $change->checksum_before }} before<br>{{
            $change->checksum_after }} after</td></tr>@endif
        @if($is('applied') && $change->grace_until_us)<tr><th scope="row">old table kept</th><td><span class="mono">{{
            $change->kept_table }}</span> until {{ moment($change->grace_until_us) }}</td></tr>@endif
    </x-facts></section>
    <section><h2>Measured by</h2>
    @if($choosing)
        @can('choose', $change)
        <form method="post" action="{{ address('change.choose', $change->id) }}">@csrf
        @if($errors->any())<p class="bad-text" role="alert">{{ $errors->first() }}</p>@endif
        @if($candidates === [])<p class="quiet">No statement of the history reads this table, so there is nothing to measure by. Run one
            that matters; it is known within minutes.</p>@else
        <ul class="choose">@foreach($candidates as $candidate)<li><label class="check"><input class="form-check-input" type="checkbox"
            name="statements[]" value="{{ $candidate->id }}" @checked(in_array($candidate->id, $chosen,
            true))> <span class="mono small">{{ App\Platform\Support\Sql::line($texts[$candidate->id] ?? '', 110) }}</span> <span
            class="quiet small nowrap">{{ Quantity::duration($candidate->durationUs) }} a week</span></label></li>@endforeach</ul>
        @if(count($places) > 1)<p><label for="rehearse-on">Rehearse on</label> <select class="form-select" id="rehearse-on"
            name="rehearse_on">@foreach($places as $id => $name)<option value="{{ $id }}" @selected($id === ($change->rehearse_on_id
            ?? $change->cluster_id))>{{ $name }}</option>@endforeach</select></p>@endif
        <p><label for="copy-share">Copy this share of the {{ $places === [] ? 'chunks' : 'rows' }}, in percent</label> <input
            class="form-control short" id="copy-share" name="copy_share" value="{{ round($change->copy_share * 100) }}"
            inputmode="numeric"> <button class="btn btn-line">Keep this choice</button></p>@endif
        </form>
        @endcan
    @else<ul class="choose">@foreach($change->workload as $one)<li><a class="mono small" href="{{ address('statement.show',
        $one['id']) }}?cluster={{ $change->cluster->slug }}&amp;window=last+28+days">{{ App\Platform\Support\Sql::line($texts[$one['id']]
        ?? $one['id'], 110) }}</a></li>@endforeach</ul>@endif
    </section></div>
    @endif
    @if($kind->limitsTitle !== '' && $change->expected['worse'] !== [])<h2>{{ $kind->limitsTitle }}</h2>
    <ul>@foreach($change->expected['worse'] as $limit)<li>{{ $limit }}</li>@endforeach</ul>@endif
    <h2>{{ $kind->stepsTitle }}</h2>
    @foreach($kind->steps($change) as $sql)<pre class="sql" tabindex="0">{{ $sql }}</pre>@endforeach
    <h2>How it is undone</h2>
    @if($kind->undoing($change) !== null)<p>{{ $kind->undoing($change) }}</p>@endif
    @if($kind->undoing($change) === null || $change->inverse === App\Ledger\Changes\InverseKind::Layout)
        @foreach($change->sealed_inverse as $sql)<pre class="sql" tabindex="0">{{ $sql }}</pre>@endforeach
    @endif
</div>
</x-layout>
