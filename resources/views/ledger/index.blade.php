@php use App\Platform\Support\MomentStyle; @endphp
<x-layout title="Ledger" bench="ledger" sub="acts">
<div class="reading">
    <h1>{{ Fulcrion\Core\Text\Quantity::count($count) }} {{ Str::plural('act', $count) }} on record, each chained to the one before</h1>
    <x-filters :to="address('ledger.index')">
        <x-search id="words" label="Person or object" :value="request('words')" />
        <div><label for="act">Act</label><select class="form-select" id="act" name="act" data-submits>
        <option value="">all</option>@foreach($acts as $act)<option @selected(request('act') === $act)>{{
        $act }}</option>@endforeach</select></div>
    </x-filters>
    <div class="tools">
        <form method="post" action="{{ address('ledger.verify') }}">@csrf<button class="plain">Verify the chain</button></form>
        <x-exports route="ledger.export" :query="request()->query()" />
    </div>
    @if($entries->isEmpty())<x-empty>No entry matches.</x-empty>@else
    <x-table name="Entries" :export="false" :sorts="false">
        <thead><tr><th scope="col" class="n">No.</th><th scope="col">When</th><th scope="col">Who</th><th scope="col">Act</th>
        <th scope="col">Object</th><th scope="col">Details</th><th scope="col">Digest</th></tr></thead>
        <tbody>@foreach($entries as $entry)<tr data-row><td class="n">{{ $entry->number }}</td><td class="nowrap">{{
            moment($entry->at_us, MomentStyle::Second)
            }}</td><td>{{ $entry->who }}</td><td>{{ $entry->act }}</td><td class="mono">{{ $entry->object }}</td><td class="small">{{
            collect((array) json_decode($entry->details, true))->map(fn ($value, $key) => $key.': '.(is_bool($value) ? ($value ? 'yes'
            : 'no') : $value))->implode('; ') }}</td><td class="mono quiet" title="{{ $entry->digest }}">{{ substr($entry->digest, 0,
            8) }}</td></tr>@endforeach</tbody>
    </x-table>
    <nav class="pages" aria-label="Pages">@if($entries->previousPageUrl())<a rel="prev" href="{{
        $entries->previousPageUrl() }}">Newer</a>@endif @if($entries->nextPageUrl())<a rel="next" href="{{
        $entries->nextPageUrl() }}">Older</a>@endif</nav>
    @endif
</div>
</x-layout>
