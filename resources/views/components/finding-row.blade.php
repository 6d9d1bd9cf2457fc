@props(['finding', 'cause' => null])
@php
    use App\Ledger\Findings\Evidence; use App\Ledger\Findings\EvidenceKind; use App\Ledger\Findings\FindingState;
    use App\Ledger\Findings\SubjectKind;
    $subject = $finding->subject();
    $ofStatement = $subject->kind === SubjectKind::Statement;
    $text = $ofStatement ? Evidence::values($finding->evidence, EvidenceKind::Statement)[0] ?? null : null;
    $cluster = $finding->cluster->slug;
    $address = match ($finding->source()->evidenceFirst ? null : $subject->kind) {
        SubjectKind::Statement => address('statement.show', [$subject->statement, 'cluster' => $cluster, 'window' => 'last 28 days']),
        SubjectKind::Account => address('statements.index', [
            'cluster' => $cluster, 'user' => $subject->name, 'window' => 'last 28 days', 'by' => 'bytes',
        ]),
        default => address('finding.show', $finding->id),
    };
@endphp
<li data-row>
    <x-state :is="$finding->mark() === 'none' ? 'no data' : $finding->mark()">{{ in_array($finding->state,
        [FindingState::Solved, FindingState::Dismissed], true) ? $finding->state->value : $finding->severity->value }}</x-state>
    <div>
        <p><a class="told-link" href="{{ $address }}">{{ $finding->problem }}</a></p>
        <p class="quiet small"><span class="mono">{{ $finding->cluster->name }} · {{
            $ofStatement && ! str_contains($finding->problem, Str::substr($text ?? '?', 0, 40))
            ? App\Platform\Support\Sql::line($text ?? $subject->shown(), 110) : ($ofStatement
            ? 'statement '.substr((string) $subject->statement, 0, 8) : $subject->shown()) }}</span> · {{
            str_replace('-', ' ', $finding->rule) }}@if($finding->state === FindingState::Accepted) · accepted by {{
            $finding->decided_by }}@endif</p>
        @if($cause !== null)<p class="quiet small">comes of <a href="{{ address('finding.show', $cause->findingId) }}">{{
            $cause->problem }}</a></p>@endif
    </div>
    @php($worth = $finding->worth())
    <p class="weight mono">{{ $finding->weight()->shown() }}@if($worth !== '')<br><span class="quiet small nowrap">{{
        Str::before($worth, ' a month') }}<span class="visually-hidden"> a month</span></span>@endif</p>
</li>
