@php $keep = fn (array $with) => address('access.matrix').'?'.http_build_query(array_filter($with + ['by' => $by, 'at' => $at,
    'words' => $words],
    fn ($v) => $v !== '' && $v !== null)); @endphp
<x-layout title="Matrix" bench="guard" sub="access">
<div class="reading wide-reading">
    <p class="trail"><a data-back href="{{ address('access.index') }}">Access</a>@foreach($line as $place) / <a href="{{
        $keep(['at' => $place]) }}">{{
        $place === 'estate' ? 'estate'
        : Fulcrion\Core\Access\Policy\ObjectPath::parts($place)[count(Fulcrion\Core\Access\Policy\ObjectPath::parts($place)) - 1]
        }}</a>@endforeach</p>
    <h1>{{ $count }} {{ $by === 'roles' ? Str::plural('role', $count) : ($count === 1 ? 'person' : 'people') }} against {{
        count($grid['places']) }} {{ match (count($line)) { 1, 2 => 'schemas', 3 => 'tables', default => 'columns' } }} of {{
        $at === 'estate' ? 'the estate' : $at }}</h1>
    <x-filters :to="address('access.matrix')"><input type="hidden" name="at" value="{{ $at }}">
        <div><label for="matrix-by">Rows</label><select class="form-select" id="matrix-by" name="by" data-submits>
        <option value="people">people</option><option value="roles" @selected($by === 'roles')>roles</option></select></div>
        <x-search id="matrix-words" label="Name or role" :value="$words" />
    </x-filters>
    <div class="tools"><a href="{{ address('access.export') }}?{{ http_build_query(['by' => $by, 'at' => $at, 'words' => $words]) }}"
        download>CSV, down to each column</a></div>
    @if($grid['rows'] === [])<x-empty>Nobody has this name or role. <a href="{{
        $keep(['words' => '']) }}">Show all</a>.</x-empty>@elseif($grid['places'] === [])<x-empty>There is nothing here to
        see.</x-empty>@else @include('access.grid')@endif
    @if($pages > 1)<nav class="pages" aria-label="Pages">@if($page > 1)<a href="{{
        $keep(['page' => $page - 1]) }}">before</a>@endif <span class="quiet">page {{ $page }} of {{
        $pages }}</span> @if($page < $pages)<a href="{{ $keep(['page' => $page + 1]) }}">next</a>@endif</nav>@endif
</div>
</x-layout>
