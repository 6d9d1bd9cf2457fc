<x-layout title="Message" bench="ledger" sub="outbox">
<div class="reading">
    <p class="trail"><a data-back href="/ledger/outbox">Outbox</a> / {{ $letter->kind }} to {{ $letter->recipient }}</p>
    <h1>{{ $letter->subject }}</h1>
    <p class="quiet">{{ $letter->state }}{{ $letter->error ? ': '.$letter->error : '' }}</p>
    <pre class="sql" tabindex="0">{{ $letter->kind === 'webhook' ? json_encode(json_decode($letter->body), JSON_PRETTY_PRINT | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE) : $letter->body }}</pre>
    @if($letter->finding_id)<p><a href="/ledger/findings/{{ $letter->finding_id }}">Open the finding</a></p>@endif
</div>
</x-layout>
