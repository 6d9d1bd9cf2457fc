@php use App\Platform\Support\MomentStyle; use Fulcrion\Core\Text\Quantity; $q = request()->query(); @endphp
<x-layout title="Decisions" bench="guard" sub="decisions">
<div class="reading wide-reading">
    <h1>{{ $count === 0 ? 'No decision is on record' : Quantity::count($count).' '.Str::plural('decision', $count).' '.($all ? ''
        : 'on you ').($count === 1 ? 'is' : 'are').' on record, '.Quantity::count($refused).' of them refused' }}</h1>
    <x-filters :to="address('decision.index')">
        @if($all)<div><label for="d-who">Who</label><input class="form-control" id="d-who" name="who" value="{{
            $q['who'] ?? '' }}"></div>@endif
        <x-search id="d-words" label="Statement or table" :value="$q['words'] ?? ''" />
        <div><label for="d-outcome">Outcome</label><select class="form-select" id="d-outcome" name="outcome" data-submits>
        <option value="">any</option>@foreach(['allowed', 'masked', 'trimmed', 'masked and trimmed', 'refused',
        'unreadable'] as $outcome)<option @selected(($q['outcome'] ?? '') === $outcome)>{{ $outcome }}</option>@endforeach</select></div>
        <div><label for="d-cluster">Cluster</label><select class="form-select" id="d-cluster" name="cluster" data-submits>
        <option value="">any</option>@foreach($clusters as $each)<option value="{{ $each->slug }}" @selected(($q['cluster']
        ?? '') === $each->slug)>{{ $each->name }}</option>@endforeach</select></div>
    </x-filters>
    <div class="tools"><a href="{{ address('decision.export') }}?{{ http_build_query($q) }}" download>JSON Lines</a></div>
    @if($decisions->isEmpty())<x-empty>{{ $q === [] ? 'Every statement that is run on a practice cluster leaves one here.'
        : 'None fits these filters.' }} @if($q !== [])<a href="{{ address('decision.index') }}">Show all</a>@endif</x-empty>@else
    <x-table name="Decisions" :export="false" :columns="true"><thead><tr><th scope="col">When</th>
    <th scope="col">For</th><th scope="col">Outcome</th><th scope="col">Where</th><th scope="col">Policy</th>
    <th scope="col">Statement</th></tr></thead><tbody>
    @foreach($decisions as $one)<tr data-row><td class="nowrap">{{ moment($one->at_us, MomentStyle::Second) }}</td>
        <td>{{ Fulcrion\Core\Access\Policy\Subject::show($one->subject) }}@if($one->source === 'try') <span
        class="quiet small">tried by {{ $one->asked_by }}</span>@endif</td><td><x-state :is="match ($one->outcome) { 'allowed' => 'calm',
        'refused', 'unreadable' => 'act', default => 'watch' }">{{ $one->outcome }}</x-state></td><td class="small">{{
        $one->cluster->name }}, {{ $one->source }}</td><td class="small">version {{ $one->version }}{{
        $one->draft ? ' and draft' : '' }}</td><td class="mono small"><a href="{{ address('decision.show', $one->id) }}">{{
        App\Platform\Support\Sql::line($one->statement, 90) }}</a></td></tr>@endforeach
    </tbody></x-table>{{ $decisions->links('pagination::simple-bootstrap-5') }}@endif
</div>
</x-layout>
