<x-layout title="Message" bench="ledger" sub="outbox">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('notification.index') }}">Outbox</a> / {{ $notification->kind }} to {{
        $notification->recipient }}</p>
    <h1>{{ $notification->subject }}</h1>
    <p class="quiet">{{ $notification->state }}{{ $notification->error ? ': '.$notification->error : ''
        }}@if($notification->state === 'waiting' && $notification->retry_us !== null); it is tried again {{
        moment($notification->retry_us) }}@endif</p>
    <pre class="sql" tabindex="0">{{ $notification->kind === 'webhook' ? json_encode(json_decode($notification->body),
        JSON_PRETTY_PRINT | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE) : $notification->body }}</pre>
    @if($notification->files() !== [])<h2>Goes with it</h2>
    <ul>@foreach($notification->files() as $file)<li><a href="{{ address('notification.file', [$notification->id, $file->id]) }}">{{
        $file->name }}</a>, {{ Fulcrion\Core\Text\Quantity::bytes((float) $file->bytes) }}</li>@endforeach</ul>@endif
    @if($notification->finding_id)<p><a href="{{ address('finding.show', $notification->finding_id) }}">Open the finding</a></p>@endif
</div>
</x-layout>
