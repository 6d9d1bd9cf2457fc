<x-layout title="Message" bench="ledger" sub="outbox">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('notification.index') }}">Outbox</a> / {{ $notification->kind }} to {{
        $notification->recipient }}</p>
    <h1>{{ $notification->subject }}</h1>
    <p class="quiet">{{ $notification->state }}{{ $notification->error ? ': '.$notification->error : '' }}</p>
    <pre class="sql" tabindex="0">{{ $notification->kind === 'webhook' ? json_encode(json_decode($notification->body),
        JSON_PRETTY_PRINT | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE) : $notification->body }}</pre>
    @if($notification->finding_id)<p><a href="{{ address('finding.show', $notification->finding_id) }}">Open the finding</a></p>@endif
</div>
</x-layout>
