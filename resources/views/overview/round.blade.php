<x-layout title="Round" bench="round">
<div class="reading">
    <h1>{{ $sentence }}</h1>
    <p class="quiet">@if($since === null)This is your first look; from the next one on, what changed since stands here.@else Since you
        last looked, {{ moment($since)
        }}: {{ $new->count() }} new, {{ $solved->count() }} solved.@endif</p>
    @if($figure !== null)<x-figure :figure="$figure" name="What could be gained" />@endif
    @if($new->isNotEmpty())<h2>New since then</h2><ul class="annotated round">@foreach($new as $finding)<x-finding-row
        :finding="$finding" />@endforeach</ul>@endif
    @if($changes->isNotEmpty())
    <h2>Changes that wait for somebody</h2>
    <ul class="annotated round">@foreach($changes as $change)<li data-row>
        <x-state :is="$change->mark()">{{ $change->doing->value ?? $change->state->value }}</x-state>
        <div><p><a class="told-link" href="{{ address('change.show', $change->id) }}">{{ $change->title }}</a></p>
        <p class="quiet small"><span class="mono">{{ $change->cluster->name }} · {{ $change->object }}</span> · next: {{
        $change->doing !== null ? 'wait, or stop it' : ['rehearsed' => 'approve it, or choose other statements',
        'approved' => 'apply it', 'failed' => 'read why, fix it and rehearse again'][$change->state->value] }}</p></div><p></p>
    </li>@endforeach</ul>
    @endif
    <h2>What needs attention, worst first</h2>
    @if($waiting->isEmpty())<x-empty><x-state is="calm" /> All findings are solved or dismissed. <a
        href="{{ address('finding.index') }}?state=dismissed">Look at what was dismissed</a>, or at <a href="{{
            address('layout.index') }}">how tables lie</a>.</x-empty>
    @else<ul class="annotated round">@foreach($waiting as $finding)<x-finding-row :finding="$finding"
        :cause="$causes[$finding->id] ?? null" />@endforeach</ul>
    @if($count > $waiting->count())<p><a href="{{ address('finding.index') }}">All {{ $count }} findings</a></p>@endif
    <p class="quiet small">The figure at the right is what a finding costs a week: time of statements, time of workers, or bytes where
        time cannot be told; below it stands what that is in money a month, where a price book tells it (modelled). Tables are checked
        every hour.</p>@endif
    @if($solved->isNotEmpty())<h2>Solved since then</h2><ul class="annotated round">@foreach($solved as $finding)<x-finding-row
        :finding="$finding" />@endforeach</ul>@endif
</div>
</x-layout>
