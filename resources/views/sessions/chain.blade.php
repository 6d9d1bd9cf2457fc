@php
    use App\Platform\Support\Sql; use Fulcrion\Core\Text\Quantity;
    $session = $locks->session($chain->session); $statement = $locks->statement($chain->session); $wait = $chain->wait;
@endphp
<li><div class="session" data-row>
    <p><x-state :is="$wait === null ? 'act' : 'watch'">{{ $wait === null ? 'holds' : 'waits' }}</x-state> <strong>session {{
        $chain->session }}</strong>@if($session !== null) of {{ $session->user }} from {{ $session->clientHost }}@if($session->database !==
        '')
        <span class="quiet">in {{ $session->database }}</span>@endif @endif @if($wait !== null)<span class="nowrap">– {{
        Quantity::duration($wait->waitedUs) }} for {{ $wait->what }}</span>@if($wait->table !== '') of <span class="mono">{{
        $wait->table }}</span>@endif @endif</p>
    @if($wait !== null && $longestUs > 0)<svg class="waited" viewBox="0 0 400 8" preserveAspectRatio="none" aria-hidden="true"><rect
        class="bar" width="{{ round(400 * $wait->waitedUs / $longestUs, 1) }}" height="8"/></svg>@endif
    @if($session?->transactionUs !== null)<p class="quiet small">Transaction open for {{ Quantity::duration($session->transactionUs) }}, {{
        Quantity::count($session->rowsLocked) }} {{ Str::plural('row', $session->rowsLocked) }} locked, {{
        Quantity::count($session->rowsChanged) }} changed</p>@endif
    @if($statement !== null)<p class="small">{{ $session->idle ? 'ran last' : 'runs' }} <a class="mono" href="{{ address('statement.show',
        $statement->id) }}?{{ http_build_query(['cluster' => $cluster->slug, 'window' => 'last 24 hours']) }}">{{
        Sql::line($statement->text, 200) }}</a></p>@elseif($session?->idle)<p class="quiet small">The server does not keep what it ran
        last: the consumer events_statements_current is off.</p>@endif
    @can('run')@if($canStop && $session !== null)<div class="tools">
        @if(! $session->idle && $statement !== null)@include('sessions.stop', ['id' => $chain->session, 'act' => 'cancel', 'statement' =>
            $statement->id])@endif @include('sessions.stop', ['id' => $chain->session, 'act' => 'end', 'statement' => ''])</div>
        @endif @endcan
    </div>
    @if($chain->behind !== [])<ul class="waits">@foreach($chain->behind as $behind)@include('sessions.chain', ['chain' =>
        $behind])@endforeach</ul>@endif
</li>
