@php
    use Fulcrion\Core\Access\Policy\{ObjectPath, Subject}; use Fulcrion\Core\Access\Decide\Sight;
    $shown = str_starts_with($who, 'person:') ? substr($who, 7) : $who;
    $total = array_sum(array_map(fn ($g) => count($g['people']), $groups)); $plain = array_sum(array_map(fn ($g)
        => $g['access']->sight === Sight::Visible ? count($g['people']) : 0, $groups));
    $sum = $who === '' ? null : $matrix->count($who, $tables);
    $heading = match (true) {
        $reason !== null => $reason->text,
        $groups !== [] => "{$plain} of {$total} people see {$object} plainly",
        $who !== '' => Subject::show($who).' sees '.$sum['visible'].' columns'.($object === '' ? ''
            : " of {$object}").' plainly, '.$sum['masked'].' masked and '.($sum['hidden'] + $sum['denied']).' not at all',
        $table !== null => "{$object} has ".count($table->columns).' columns',
        default => 'Ask who sees a column, what a person sees, or why',
    };
@endphp
<x-layout title="Explain" bench="guard" sub="access">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('access.index') }}">Access</a>@foreach($object === '' ? []
        : array_slice(ObjectPath::line($object),
        1) as $place) / <a href="{{ address('access.explain') }}?object={{ urlencode($place) }}@if($who !== '')&amp;who={{
            urlencode($who) }}@endif">{{
        ObjectPath::parts($place)[count(ObjectPath::parts($place)) - 1] }}</a>@endforeach</p>
    <h1>{{ $heading }}</h1>
    <form class="filters" method="get" action="{{ address('access.explain') }}">
        <div><label for="explain-who">Person or role</label><input class="form-control" id="explain-who" data-key="&#47;" name="who"
            value="{{ $shown }}" list="subjects"></div>
        <div><label for="explain-object">Table or column</label><input class="form-control wide" id="explain-object" name="object"
            value="{{ $object }}" list="paths"></div>
        @can('guard')<div><label for="explain-policy">Policy</label><select class="form-select" id="explain-policy" name="policy"
            data-submits><option value="published">in force</option>
            <option value="draft" @selected($which === 'draft')>the draft</option></select></div>@endcan
        <button class="btn btn-primary">Explain</button>
    </form>
    @include('access.subject-list')
    <datalist id="paths">@foreach($columns as $path)<option value="{{ $path }}">@endforeach</datalist>
    @if($trouble)<div class="notice bad" role="alert">{{ $trouble }}</div>@endif
    @if($owner !== null || $labels !== [])<x-facts>
        @if($owner !== null)<tr><th scope="row">owner</th><td>{{ Subject::show($owner) }}</td></tr>@endif
        @foreach($labels as [$key, $value, $from])<tr><th scope="row">label {{ $key }}</th>
        <td>{{ $value }}@if($from !== $object), inherited from {{ $from }}@endif</td></tr>@endforeach
    </x-facts>@endif
    @error('value')<div class="notice bad" role="alert">{{ $message }}</div>@enderror
    @if($delegated !== [])<details class="more"><summary>Put a label here</summary>@foreach($delegated as $key)<form class="filters"
        method="post" action="{{ address('label.assign') }}">@csrf<input type="hidden" name="on" value="{{
        $object }}"><input type="hidden" name="key" value="{{ $key->name }}"><div><label for="assign-{{ md5($key->name) }}">{{
        $key->name }}</label>@if($key->texts('values') === [])<input class="form-control" id="assign-{{
        md5($key->name) }}" name="value">@else<select class="form-select" id="assign-{{
        md5($key->name) }}" name="value">@foreach($key->texts('values') as $value)<option>{{
        $value }}</option>@endforeach</select>@endif</div><button
        class="btn btn-line">Into the draft</button></form>@endforeach</details>@endif
    @if($reason !== null)
        <h2>Why</h2>
        <ul class="reasons top">@foreach($reason->toArray()['inner'] as $inner)@include('access.reason',
            ['reason' => $inner])@endforeach</ul>
        @can('guard')<div class="tools"><a href="{{ address('try.show') }}?who={{ urlencode($shown) }}&amp;cluster={{
            ObjectPath::parts($object)[0] }}&amp;sql={{ rawurlencode('SELECT '.$column.' FROM '.implode('.',
            array_slice(ObjectPath::parts($table->path), 1)).' LIMIT 20') }}">Try it as {{ $shown }}</a></div>@endcan
    @elseif($groups !== [])
        <h2>Who sees it how</h2>
        <x-table name="Who sees it how" :export="false"><thead><tr><th scope="col">Sight</th>
        <th scope="col" class="n">People</th><th scope="col">Who</th><th scope="col">Because</th></tr></thead><tbody>
        @foreach($groups as $group)<tr data-row><td><x-sight :access="$group['access']" /></td>
        <td class="n">{{ count($group['people']) }}</td>
            <td class="small"><details class="more"><summary>{{ implode(', ', array_map(fn ($p) => $p->text('title', $p->name),
                array_slice($group['people'], 0, 4))) }}{{ count($group['people']) > 4 ? ' and '.(count($group['people']) - 4).' more'
                : '' }}</summary>@foreach($group['people'] as $person)<a href="{{ address('access.explain') }}?who={{
                urlencode($person->name) }}&amp;object={{ urlencode($object) }}">{{ $person->text('title',
                $person->name) }}</a>@if(! $loop->last), @endif @endforeach</details></td>
            <td class="small">{{ implode('; ', array_map(strval(...), $group['access']->causes)) ?: 'granted, and no rule holds' }} <a
                href="{{ address('access.explain') }}?who={{ urlencode($group['people'][0]->name) }}&amp;object={{
                    urlencode($object) }}">Why</a></td>
                </tr>@endforeach
        </tbody></x-table>
    @elseif($who === '' && $table !== null)
        <h2>Columns</h2><ul class="choose">@foreach(array_keys($table->columns) as $name)<li data-row><a class="mono"
            href="{{ address('access.explain') }}?object={{ urlencode(ObjectPath::child($table->path, (string) $name)) }}">{{
            $name }}</a></li>@endforeach</ul>
    @endif
    @if($tables !== [])
        <h2>What they see</h2>
        <x-table name="Tables" :export="'What '.$shown.' sees'"><thead><tr>
        <th scope="col">Table</th><th scope="col">Columns</th></tr></thead><tbody>
        @foreach($tables as $one)@php $by = []; foreach ($matrix->columns($who, $one) as $name => $access) { if ($column === null ||
            $name === $column) { $by[$access->words()][] = [$name, $access]; } } @endphp
        <tr data-row><td class="mono"><a href="{{ address('access.explain') }}?who={{ urlencode($shown) }}&amp;object={{
            urlencode($one->path) }}">{{
            $one->path }}</a></td><td>@foreach($by as $list)<div class="sight-line"><x-sight :access="$list[0][1]" /> <span
            class="small">@if(count($list) === count($one->columns) && count($tables) > 1)all {{
            count($list) }} columns @else @foreach($list as [$name, $_])<a class="mono" href="{{ address('access.explain') }}?who={{
            urlencode($shown) }}&amp;object={{ urlencode(ObjectPath::child($one->path, (string) $name)) }}">{{
            $name }}</a>@if(! $loop->last), @endif @endforeach @endif</span></div>@endforeach</td></tr>@endforeach
        </tbody></x-table>
    @endif
    @if($who === '' && $object === '')<x-empty>Write a person to see what they see, a column to see who sees it, or both to read
        why.</x-empty>@endif
</div>
</x-layout>
