<x-layout title="Proof {{ $record->id }}" bench="ledger" sub="proofs">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('proof.index') }}">Proofs</a> / <a href="{{ address('change.show',
        $change->id) }}">change {{
        $change->id }}</a> <span class="quiet">{{ $change->cluster->name }} · {{ $change->object }}</span></p>
    <h1>{{ $record->sentence }}</h1>
    <div class="tools"><a href="{{ address('proof.file', $record->id) }}" download>One file to hand on (HTML)</a>@if($change->state->value
        === 'rehearsed' && $record->kind === 'rehearsal')<a href="{{ address('change.show',
            $change->id) }}">Approve it on the page of the change</a>@endif</div>
    @include('ledger.proof-body')
    @if($record->shownBy() !== null)@include($record->shownBy()->view)@else
    <h2>Time of each statement</h2>
    <x-figure :figure="$figure" name="Before and after" />
    <h2>All figures</h2>
    @include('ledger.proof-table')
    @include('ledger.proof-unmeasured')
    @if($differences !== [])@include('ledger.proof-differences')@endif
    @if($live !== [])@include('ledger.live')@endif
    @endif
</div>
</x-layout>
