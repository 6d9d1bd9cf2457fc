@php use Fulcrion\Core\Text\Quantity; @endphp
<x-layout title="Outbox" bench="ledger" sub="outbox">
<div class="reading">
    <h1>{{ $subscriptions->isEmpty() ? 'Nobody is told of anything yet' : $subscriptions->count().' '.Str::plural('receiver',
        $subscriptions->count()).' '.($subscriptions->count() === 1 ? 'is'
        : 'are').' told of findings or incidents; '.Quantity::count($count).' '.Str::plural('message', $count).' so far' }}</h1>
    <p>One message goes out when something is found, and one when it is solved; one when an incident begins, one when it has grown to twice
        its size, and one when it is over. Mail is kept here to be read; webhooks get JSON that is signed (RFC 9421).</p>
    @if(session('secret'))<div class="notice" role="status"><p>Messages to this webhook are signed with this secret. It is shown once:</p>
        <p class="mono">{{ session('secret') }}</p></div>@endif
    @can('own')
    <form class="filters" method="post" action="{{ address('notification.store') }}">@csrf
        <div><label for="watch-kind">By</label><select class="form-select" id="watch-kind" name="kind"><option value="mail">mail</option>
        <option value="webhook" @selected(old('kind') === 'webhook')>webhook</option></select></div>
        <div><label for="watch-target">To</label><input class="form-control" id="watch-target" name="target" value="{{
            old('target') }}" placeholder="name@example.com or https://"></div>
        <div><label for="watch-hears">Of</label><select class="form-select" id="watch-hears" name="hears">
        @foreach(App\Ledger\Models\Subscription::HEARS as $each)<option @selected(old('hears') === $each)>{{ $each
        }}</option>@endforeach</select></div>
        <label class="check"><input class="form-check-input" type="checkbox" name="digest" value="1"> once a day, together</label>
        <button class="btn btn-primary">Add</button>
    </form>
    @if($errors->any())<p class="bad-text" role="alert">{{ $errors->first() }}</p>@endif
    @endcan
    @if($subscriptions->isNotEmpty())<x-table name="Who is told" class="narrow" :export="false" :sorts="false">
    <thead><tr><th scope="col">To</th><th scope="col">By</th>
    <th scope="col">Of</th><th scope="col">How often</th><th scope="col">Added by</th>
    <th scope="col"><span class="visually-hidden">Act</span></th></tr></thead>
    <tbody>@foreach($subscriptions as $subscription)<tr><td class="mono">{{ $subscription->shown() }}</td>
    <td>{{ $subscription->kind }}</td><td>{{ $subscription->hears === 'both' ? 'findings and incidents' : $subscription->hears }}</td>
    <td>{{ $subscription->digest ? 'once a day' : 'at once' }}</td>
    <td>{{ $subscription->made_by }}</td><td>@can('own')<form method="post" action="{{ address('notification.remove',
        $subscription->id) }}">@csrf<button class="plain">remove</button></form>@endcan</td></tr>@endforeach</tbody></x-table>@endif
    <h2>Messages</h2>
    @if($notifications->isEmpty())<x-empty>No message was made yet.</x-empty>@else
    <x-filters :to="address('notification.index')">
    <div><label for="state">State</label><select class="form-select"
        id="state" name="state" data-submits><option value="">any</option>@foreach(['waiting', 'sent', 'kept', 'failed', 'held',
        'digested'] as $state)<option @selected(request('state') === $state)>{{ $state }}</option>@endforeach</select></div></x-filters>
    @can('own')<div class="tools"><form method="post" action="{{ address('notification.send') }}">@csrf<button
        class="plain">Send what waits or failed now</button></form></div>@endcan
    <x-table name="Messages" :export="false" :sorts="false"><thead><tr><th scope="col">When</th>
    <th scope="col">State</th><th scope="col">To</th><th scope="col">Subject</th></tr></thead>
    <tbody>@foreach($notifications as $notification)<tr data-row><td class="nowrap">{{
    moment($notification->made_us) }}</td>
    <td><x-state :is="['sent' => 'calm', 'failed' => 'act', 'waiting' => 'watch'][$notification->state] ?? 'no data'">{{
    $notification->state }}</x-state></td><td class="mono">{{ $notification->recipient }}</td>
    <td class="problem"><a href="{{ address('notification.show', $notification->id) }}">{{
    $notification->subject }}</a>@if($notification->error)<br><span class="bad-text small">{{ $notification->error }}</span>@endif</td>
    </tr>@endforeach</tbody></x-table>
    <nav class="pages" aria-label="Pages">@if($notifications->previousPageUrl())<a rel="prev" href="{{
        $notifications->previousPageUrl() }}">Newer</a>@endif @if($notifications->nextPageUrl())<a rel="next" href="{{
        $notifications->nextPageUrl() }}">Older</a>@endif</nav>@endif
</div>
</x-layout>
