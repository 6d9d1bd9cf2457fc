@php use App\Platform\Support\MomentStyle; use App\Ledger\Findings\FindingState; use Fulcrion\Core\Text\Quantity;
    $source = $finding->source(); $home = $source->home($finding); $rule = $source->rule($finding);
    $worth = $finding->worth(); @endphp
<x-layout title="Finding {{ $finding->id }}" bench="ledger" sub="findings">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('finding.index') }}">Findings</a> / {{
        $finding->cluster->name }}@if($home !== null) / <a href="{{ $home[1] }}">{{
        $home[0] }}</a>@endif</p>
    <h1>{{ $finding->problem }}</h1>
    <p><x-state :is="$finding->mark() === 'none' ? 'no data' : $finding->mark()">{{
        $finding->state->value }}</x-state>@if($finding->state === FindingState::Dismissed) until {{
        moment($finding->dismissed_until_us, MomentStyle::Day) }} by {{
        $finding->decided_by }}: {{ $finding->reason }}@elseif($finding->state === FindingState::Accepted) by {{
        $finding->decided_by }}@elseif($finding->state === FindingState::Solved) {{ moment($finding->solved_us) }}@endif</p>
    <h2>Evidence</h2>
    <x-facts>
        @if($finding->weight > 0)<tr><th scope="row">weight</th>
        <td>{{ $finding->weight()->shown() }}{{ $finding->weight_unit === App\Ledger\Findings\WeightUnit::Bytes ? '' : ' a week' }} ({{
            $source->weighed }})</td></tr>
        @if($worth !== '')<tr><th scope="row">worth</th><td>about {{ $worth }} (modelled, by <a href="{{
            address('cost.prices') }}?cluster={{ $finding->cluster->slug }}">the price book</a>; nodes are
            paid for until fewer are needed)</td></tr>@endif @endif
        @if($cause !== null)<tr><th scope="row">comes of</th><td><a href="{{ address('finding.show', $cause->findingId) }}">{{
            $cause->problem }}</a>, which explains {{ Quantity::percent($cause->share) }} of it (modelled)</td></tr>@endif
        @if($explains !== [])<tr><th scope="row">explains</th><td>@foreach($explains as $one)<a href="{{
            address('finding.show', $one->findingId) }}">{{ $one->problem }}</a> ({{ Quantity::percent($one->share) }} of it,
            modelled)@if(! $loop->last)<br>@endif @endforeach</td></tr>@endif
        @if($finding->spare_bytes > 0)<tr><th scope="row">bytes for nothing</th><td>{{ Quantity::bytes($finding->spare_bytes) }}</td>
        </tr>@endif
        @foreach($finding->evidence as $one)<tr><th scope="row">{{ $one->label }}</th>
        <td>@if($one->kind === App\Ledger\Findings\EvidenceKind::Literal)@can('reveal')<code>{{
        $one->value }}</code>@else hidden from your role @endcan @else{{ $one->value }}@endif</td></tr>@endforeach
        <tr><th scope="row">rule</th><td>@if($rule !== null)<a href="{{ $rule }}">{{ str_replace('-', ' ', $finding->rule) }}</a>@else{{
            str_replace('-', ' ', $finding->rule) }}@endif</td></tr>
        <tr><th scope="row">first found</th><td>{{ moment($finding->first_us) }}; last seen {{ moment($finding->last_us) }}</td></tr>
    </x-facts>
    @if($finding->subject()->statement !== null)<p><a href="{{ address('statement.show', $finding->subject()->statement) }}?cluster={{
        $finding->cluster->slug }}&amp;window=last+28+days">Open the statement</a></p>@endif
    @if($finding->state !== FindingState::Solved)
    <h2>What to do</h2>
    @can('decide', $finding)
    <div class="acts">
        @if($source->acts !== '')@include($source->acts)@else<p
            class="tight">@if($cause !== null)<a href="{{ address('finding.show', $cause->findingId) }}">Open what it comes of</a>: that can
            be changed.@else There is no change that could be made for you: a person has to decide.@endif</p>@endif
        @if($finding->state === FindingState::Open)<form method="post" action="{{ address('finding.accept', $finding->id) }}">@csrf<button
            class="btn btn-line">Accept: I am on it</button></form>@else<form method="post" action="{{ address('finding.reopen',
                $finding->id) }}">@csrf<button class="btn btn-line">Open it again</button></form>@endif
    </div>
    @if($finding->state !== FindingState::Dismissed)
    <details class="more" @if($errors->any()) open @endif><summary>Dismiss it until a date, with a reason</summary>
    <form class="form-grid" method="post" action="{{ address('finding.dismiss', $finding->id) }}">@csrf
        <label for="dismiss-reason">Why it may stay</label><textarea class="form-control" id="dismiss-reason" name="reason" rows="2">{{
            old('reason') }}</textarea>@error('reason')<p class="hint bad-text" role="alert">{{ $message }}</p>@enderror
        <label for="dismiss-until">Until</label><input class="form-control" id="dismiss-until" type="date" name="until" value="{{
            old('until', (new DateTimeImmutable('@'.App\Platform\Support\Clock::seconds()))->modify('+90 days')->format('Y-m-d'))
            }}">@error('until')<p class="hint bad-text" role="alert">{{ $message }}</p>@enderror
        <span></span><div><button class="btn btn-line">Dismiss until then</button></div>
    </form></details>
    @endif
    @else<p class="quiet">{{ $source->deciders }}</p>@endcan
    @endif
    @if($changes->isNotEmpty())<h2>Changes</h2><ul class="annotated round">@foreach($changes as $change)<li data-row><x-state
        :is="$change->mark()">{{ $change->state->value }}</x-state><div><p><a class="told-link" href="{{ address('change.show',
            $change->id) }}">{{ $change->title }}</a></p><p class="quiet small">asked by {{ $change->asked_by }}, {{
        moment($change->asked_us) }}</p></div><p></p></li>@endforeach</ul>@endif
</div>
</x-layout>
