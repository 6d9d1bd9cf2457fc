@php use Fulcrion\Core\Text\Quantity; @endphp
<x-layout title="Changes" bench="ledger" sub="changes">
<div class="reading">
    <h1>{{ $count === 0 ? 'No change matches' : Quantity::count($count).' '.Str::plural('change', $count) }}{{
        request()->query() === [] && $count > 0 ? ', from proposal to proof' : '' }}</h1>
    <x-filters :to="address('change.index')">
        <x-search id="words" label="Table or title" :value="request('words')" />
        <div><label for="state">State</label><select class="form-select" id="state" name="state" data-submits>
        <option value="">any</option>@foreach(App\Ledger\Changes\ChangeState::cases() as $state)<option
        @selected(request('state') === $state->value)>{{ $state->value }}</option>@endforeach</select></div>
        <div><label for="cluster">Cluster</label><select class="form-select" id="cluster" name="cluster" data-submits>
        <option value="">all</option>@foreach($clusters as $each)<option value="{{
        $each->slug }}" @selected(request('cluster') === $each->slug)>{{ $each->name }}</option>@endforeach</select></div>
    </x-filters>
    <div class="tools"><x-exports route="change.export" :query="request()->query()" /></div>
    @if($changes->isEmpty())<x-empty>Changes are proposed from <a
        href="{{ address('finding.index') }}">findings</a> and from the advice on the page of a <a href="{{
            address('layout.index') }}">table</a>.</x-empty>@else
    <x-table name="Changes" :export="false" :columns="true" :sorts="false"><thead><tr><th scope="col" class="n">No.</th>
    <th scope="col">State</th><th scope="col">Change</th><th scope="col">Table</th><th scope="col">Asked</th>
    <th scope="col">Approved</th><th scope="col">Applied</th><th scope="col" class="n">Expected a week</th></tr></thead>
    <tbody>@foreach($changes as $change)<tr data-row><td class="n">{{ $change->id }}</td>
    <td><x-state :is="$change->mark() === 'none' ? 'no data' : $change->mark()">{{
    $change->doing->value ?? $change->state->value }}</x-state></td><td class="problem"><a href="{{ address('change.show',
        $change->id) }}">{{
    $change->title }}</a></td><td class="mono">{{ $change->object }}<br><span class="quiet small">{{
    $change->cluster->name }}</span></td><td>{{ $change->asked_by }}<br><span class="quiet small nowrap">{{
    moment($change->asked_us) }}</span></td><td>{{ $change->approved_by ?? Quantity::NONE }}<br><span class="quiet small nowrap">{{
    $change->approved_us ? moment($change->approved_us) : '' }}</span></td><td>{{ $change->applied_by ?? Quantity::NONE }}<br><span
    class="quiet small nowrap">{{ $change->applied_us ? moment($change->applied_us) : '' }}</span></td>
    <td class="n">{{ $change->expected['savedUs'] > 0 ? Quantity::duration($change->expected['savedUs']) : Quantity::NONE }}
    @if($change->worth() !== '')<br><span class="quiet small nowrap">{{ $change->worth() }}</span>@endif</td>
    </tr>@endforeach</tbody></x-table>
    <nav class="pages" aria-label="Pages">@if($changes->previousPageUrl())<a rel="prev" href="{{
        $changes->previousPageUrl() }}">Newer</a>@endif @if($changes->nextPageUrl())<a rel="next" href="{{
        $changes->nextPageUrl() }}">Older</a>@endif</nav>@endif
</div>
</x-layout>
