@php $open = $campaign->items->where('state', 'open')->count(); @endphp
<x-layout title="{{ $campaign->title }}" bench="guard" sub="review">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('campaign.index') }}">Reviews of grants</a></p>
    <h1>{{ $campaign->title }}: {{ $open }} of {{ $campaign->items->count() }} are open, {{
        $campaign->ended_us !== null ? 'and it has ended' : ($campaign->due < $today ? "and it was due on {$campaign->due}"
        : "due on {$campaign->due}") }}</h1>
    <div class="tools"><a href="{{ address('campaign.export', $campaign->id) }}" download>CSV</a>@if($campaign->ended_us === null)<form
        method="post" action="{{ address('campaign.end', $campaign->id) }}">@csrf<button class="plain">End it</button></form>@endif</div>
    @if($errors->any())<div class="notice bad" role="alert">{{ $errors->first() }}</div>@endif
    <form method="post" action="{{ address('campaign.decide', $campaign->id) }}" data-all>@csrf
    <x-table name="Access" :export="false"><thead><tr>
    <th scope="col"><label class="check"><input class="form-check-input" type="checkbox" data-ticks-all> all</label></th>
    <th scope="col">Access</th><th scope="col">Name</th><th scope="col">State</th></tr></thead><tbody>
    @foreach($campaign->items as $item)<tr data-row><td>@if($item->state === 'open' && $campaign->ended_us === null)<input
        class="form-check-input" type="checkbox" name="items[]" value="{{ $item->id }}" aria-label="{{ $item->name }}">@endif</td>
        <td>{{ $item->described }}</td><td class="small"><a href="{{ address('policy.item', $item->kind) }}?name={{
        urlencode($item->name) }}">{{ $item->name }}</a></td><td class="small"><x-state :is="['open' => 'watch', 'certified' => 'calm',
        'revoked' => 'act'][$item->state]">{{ $item->state }}</x-state>@if($item->decided_by) {{
        $item->decided_by }}@endif @if($item->note): {{ $item->note }}@endif</td></tr>@endforeach
    </tbody></x-table>
    @if($open > 0 && $campaign->ended_us === null)<div class="acts"><label for="campaign-note">Note</label><input class="form-control"
        id="campaign-note" name="note"><button class="btn btn-primary" name="answer"
        value="certified">Certify the chosen ones</button><button class="btn btn-line" name="answer"
        value="revoked">Revoke the chosen ones</button></div>@endif
    </form>
</div>
</x-layout>
