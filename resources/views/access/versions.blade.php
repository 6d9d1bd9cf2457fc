@php @endphp
<x-layout title="Versions" bench="guard" sub="draft">
<div class="reading">
    <h1>{{ $number === 0 ? 'No policy was published yet' : "Version {$number} of the policy is in force" }}</h1>
    @if($versions->isEmpty())<x-empty>What stewards edit gathers in the <a
        href="{{ address('draft.show') }}">draft</a>; publishing it makes the first version.</x-empty>@else
    <form class="filters" method="get" action="{{ address('version.compare') }}"><div><label for="compare-a">Compare version</label><input
        class="form-control short" id="compare-a" name="a" value="{{ max(0, $number - 1) }}" inputmode="numeric"></div>
        <div><label for="compare-b">with</label><input class="form-control short" id="compare-b" name="b" value="{{
        $number }}" inputmode="numeric"></div><button class="btn btn-line">Compare</button></form>
    <x-table name="Versions"><thead><tr>
    <th scope="col" class="n">Version</th><th scope="col">Published</th><th scope="col">By</th><th scope="col">Why</th>
    <th scope="col">Proof</th><th scope="col">State</th></tr></thead><tbody>
    @foreach($versions as $version)<tr data-row><td class="n"><a href="{{ address('version.compare') }}?a={{
        max(0, $version->number - 1) }}&amp;b={{ $version->number }}">{{ $version->number }}</a></td><td class="nowrap">{{
        moment($version->made_us) }}</td><td>{{ $version->made_by }}</td>
        <td>{{ $version->comment }}@if($version->restored !== null) <span class="quiet small">(as version {{
        $version->restored }})</span>@endif</td><td>@if($version->change_id)<a href="{{ address('change.show',
            $version->change_id) }}">change {{
        $version->change_id }}</a>@endif</td>
        <td>@can('guard')@if($version->number !== $number)<form method="post" action="{{ address('version.restore', $version->number) }}"
            data-confirm="Put version {{ $version->number }} into force again?">@csrf<button
            class="plain">Bring back</button></form>@else<span class="quiet">in force</span>@endif @endcan</td></tr>@endforeach
    </tbody></x-table>{{ $versions->links('pagination::simple-bootstrap-5') }}@endif
</div>
</x-layout>
