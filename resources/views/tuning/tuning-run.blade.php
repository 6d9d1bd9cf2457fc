@php
    use Fulcrion\Core\Text\Quantity;
    $last = $steps === [] ? null : $steps[count($steps) - 1];
    $kept = max(0, count(array_filter($steps, fn ($s) => $s['state'] === 'kept')) - 1);
    $choosing = auth()->user()->can('run') && $changes->where('state', 'rehearsed')->isNotEmpty() && $run->state === 'done';
@endphp
<x-layout title="Tuning run {{ $run->id }}" bench="tune" sub="tuning">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('tuning.index') }}">Tuning runs</a> / {{ $run->cluster->name }} / run {{ $run->id }}, {{
        moment($run->asked_us) }}, {{ $run->asked_by }}</p>
    <h1>{{ $last === null ? ucfirst($run->title).' '.($run->state === 'planned' ? 'are tuned on '.moment($run->limits['atUs'])
        : 'are being tuned') : ucfirst($run->title).' took '.Quantity::duration($steps[0]['weekUs']).' a week and '.($run->state ===
        'done' ? 'would take' : 'so far would take').' '.Quantity::duration($last['weekUs']).' (modelled), '
            .Quantity::digits($steps[0]['weekUs'] / max(1, $last['weekUs'])).' times less, with '.$kept.' '.Str::plural('step',
            $kept).' kept' }}</h1>
    @if($run->error)<div class="notice bad" role="alert">{{ $run->error }}</div>@endif
    @if($run->state === 'planned')@can('run')<form method="post" action="{{ address('tuning.stop', $run->id) }}">@csrf<button
        class="plain">Take it off the plan</button></form>@endcan @endif
    @include('tuning.tuning-progress')
    <p class="quiet small">At most {{ $run->limits['minutes'] }} minutes and {{
        Quantity::digits($run->limits['gib']) }} GiB rewritten; {{
        $run->limits['apply'] ? 'what pays is applied on the cluster itself' : 'what pays becomes a rehearsed change' }}.</p>
    @if($figure !== null)<x-figure :figure="$figure" name="Stair" />
    <div class="tools"><a href="{{ address('tuning.report', $run->id) }}">Report</a></div>
    @if($choosing)<form method="post" action="{{ address('tuning.apply', $run->id) }}">@csrf @endif
    @include('tuning.tuning-body')
    @if($choosing)<button class="btn btn-primary">Approve and apply the ticked steps on {{ $run->cluster->name }}</button></form>@endif
    @include('tuning.tuning-lines')
    @endif
</div>
</x-layout>
