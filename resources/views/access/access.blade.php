@php use Fulcrion\Core\Text\Quantity; $acts = $findings->where('severity', App\Ledger\Findings\Severity::Act)->count(); @endphp
<x-layout title="Access" bench="guard" sub="access">
<div class="reading">
    <h1>@if($number === 0)No policy is published yet: everybody who signs in may do what their role here allows @else{{
        $people }} people stand in version {{ $number }} of the policy; {{ $personal }} columns are labelled personal, and {{
        $open === 0 ? 'nobody sees any of them plainly' : 'at most '.$open.' people see one of them plainly' }}@endif</h1>
    @if($troubles !== [])<div class="notice bad" role="alert">@foreach($troubles as $what => $trouble)<p>{{ $what }}: {{
        $trouble }}</p>@endforeach<p class="quiet">What cannot be read is closed until it can.</p></div>@endif
    <form class="filters" method="get" action="{{ address('access.explain') }}">
        <div><label for="find-who">Person or role</label><input class="form-control" id="find-who" data-key="&#47;" name="who"
            placeholder="joon, or role:agronomy"></div>
        <div><label for="find-object">Table or column</label><input class="form-control wide" id="find-object" name="object"
            placeholder="fernhill.people.grower.phone"></div>
        <button class="btn btn-primary">Explain</button>
    </form>
    <div class="tools"><a href="{{ address('access.matrix') }}?by=people">Everybody against everything</a>@can('guard')<a href="{{
        address('draft.show') }}">{{
        $edits === 0 ? 'The draft is empty' : "The draft holds {$edits} ".Str::plural('edit', $edits) }}</a>@endcan<a
        href="{{ address('version.index') }}">Versions</a><a href="{{ address('request.index') }}">Ask for access</a></div>
    <h2>Roles against schemas</h2>
    @if($grid['rows'] === [] || $grid['places'] === [])<x-empty>There is no role or no table yet. @can('guard')<a
        href="{{ address('policy.item', 'roles') }}">Add a role</a>@endcan</x-empty>@else @include('access.grid', ['by' => 'roles'])@endif
    <h2>{{ $findings->isEmpty() ? 'Nothing needs attention' : $findings->count().' '.Str::plural('finding',
        $findings->count()).', '.$acts.' of them to act on' }}</h2>
    @if($findings->isNotEmpty())<x-table name="Findings" :export="false" class="narrow"><thead><tr>
    <th scope="col">What</th><th scope="col" class="n">Findings</th><th scope="col">Why it matters</th></tr></thead><tbody>
        @foreach($findings->groupBy('rule') as $check => $group)<tr data-row><td>@can('guard')<a href="{{
            address('review.index') }}?check={{
            $check }}">{{ $checks[$check][0] ?? $check }}</a>@else<a href="{{ address('finding.index') }}?rule={{ $check }}">{{
            $checks[$check][0] ?? $check }}</a>@endcan</td><td class="n">{{ $group->count() }}</td><td class="quiet small">{{
            $checks[$check][1] ?? '' }}</td></tr>@endforeach
    </tbody></x-table>@endif
</div>
</x-layout>
