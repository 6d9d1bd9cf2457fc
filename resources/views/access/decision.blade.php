@php use App\Platform\Support\MomentStyle; use Fulcrion\Core\Access\Policy\Subject; @endphp
<x-layout title="Decision {{ $decision->id }}" bench="guard" sub="decisions">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('decision.index') }}">Decisions</a></p>
    <h1>{{ Subject::show($decision->subject) }}: {{ $decision->outcome }}, on {{ $decision->cluster->name }}</h1>
    <x-facts><tr><th scope="row">when</th><td>{{
        moment($decision->at_us, MomentStyle::Second) }}</td></tr><tr><th scope="row">asked by</th>
        <td>{{ $decision->asked_by }}, {{ $decision->source }}</td></tr><tr><th scope="row">policy</th>
        <td>version {{ $decision->version }}{{ $decision->draft ? ', with the draft on it' : '' }}</td></tr></x-facts>
    <pre class="sql" tabindex="0">{{ App\Platform\Support\Sql::pretty($decision->statement, $decision->cluster->dialect) }}</pre>
    <h2>Why</h2>
    <ul class="reasons top">@foreach($decision->sealed_reasons as $reason)@include('access.reason', ['reason' => $reason])@endforeach</ul>
    @if($steward)
        <div class="tools"><a href="{{ address('try.show') }}?{{ http_build_query(['who' => str_starts_with($decision->subject,
            'person:') ? substr($decision->subject, 7) : $decision->subject, 'cluster' => $decision->cluster->slug,
            'sql' => $decision->statement]) }}">Try it as them, and see what would allow it</a></div>
        @if($decision->sealed_error !== null)<h2>What the cluster said</h2>
            @if($revealed ?? false)<p class="mono">{{ $decision->sealed_error }}</p>
            <p class="quiet small">Shown with the values it speaks of; the ledger says so.</p>
            @else<form class="tools" method="post" action="{{ address('decision.reveal', $decision->id) }}">@csrf<button
                class="btn btn-line">Reveal the full text</button> <span
                class="quiet small">It may show values of tables. That it was revealed is written to the ledger.</span></form>@endif
        @endif
        @if($decision->sealed_rewritten !== null)<details class="more"><summary>What was run</summary><pre class="sql" tabindex="0">{{
            App\Platform\Support\Sql::pretty($decision->sealed_rewritten, $decision->cluster->dialect) }}</pre></details>@endif
    @elseif($decision->outcome === 'refused')<div class="tools"><a href="{{ address('request.index') }}?object={{
        urlencode($decision->tables[0] ?? '') }}">Ask for access</a></div>@endif
</div>
</x-layout>
