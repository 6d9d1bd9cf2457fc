@php
    use Fulcrion\Core\Access\Policy\{Kind, FieldType, ItemChange};
    $fields = array_values(array_filter($kind->fields(), fn ($f) => ! in_array($f->name, ['description', 'hue', 'shape', 'links',
        'contact', 'evidence', 'title', 'purpose'], true)));
    $fields = array_slice($kind === Kind::People ? [$kind->field('title'), ...$fields] : $fields, 0, 6);
@endphp
<x-layout title="{{ ucfirst($kind->value) }}" bench="guard" sub="policy">
<div class="reading wide-reading">
    <p class="trail"><a data-back href="{{ address('policy.index') }}">Policy</a> / {{ $kind->value }}</p>
    <h1>{{ $count }} {{ $count === 1 ? $kind->one() : $kind->value }}: {{ $kind->describe() }}</h1>
    @error('value')<div class="notice bad" role="alert">{{ $message }}</div>@enderror
    <x-filters :to="address('policy.kind', $kind->value)">
    <x-search id="kind-words" label="Words" :value="$words" />@can('guard')<a class="btn btn-primary" href="{{
        address('policy.item', $kind->value) }}">Add a {{ $kind->one() }}</a>@endcan</x-filters>
    @if($items === [])<x-empty>{{ $words === '' ? 'There is none yet.' : 'None has these words.' }} @if($words !== '')<a
        href="{{ address('policy.kind', $kind->value) }}">Show all</a>@endif</x-empty>@else
    <x-table :name="ucfirst($kind->value)"><thead><tr><th scope="col">Name</th>@foreach($fields as $field)<th scope="col">{{
        $field->name }}</th>@endforeach<th scope="col">State</th></tr></thead><tbody>
    @foreach($items as $item)@php $old = $published->find($kind, $item->name); $edited = $old === null || ! $old->same($item); @endphp<tr
        data-row>
        <td>@can('guard')<a href="{{ address('policy.item', $kind->value) }}?name={{ urlencode($item->name) }}">{{ $item->name }}</a>@else{{
            $item->name }}@endcan</td>
        @foreach($fields as $field)<td @class(['small', 'mono' => in_array($field->type, [FieldType::Condition, FieldType::Predicate,
            FieldType::Path, FieldType::Paths], true)])>{{ Str::limit(ItemChange::show($item->fields[$field->name] ?? ''),
            140) }}</td>@endforeach
        <td>@if(isset($trouble[$item->name]))<x-state :is="array_filter($trouble[$item->name], fn ($p) => $p->grave) !== [] ? 'act'
            : 'watch'">does not fit</x-state>@elseif($edited)<x-state is="watch">{{ $old === null ? 'added in the draft'
            : 'edited in the draft' }}</x-state>@else<x-state is="calm">in force</x-state>@endif</td>
    </tr>@endforeach
    @foreach($gone as $item)<tr><td><s>{{ $item->name }}</s></td>
    <td colspan="{{ count($fields) }}" class="quiet">taken out in the draft</td>
    <td>@can('guard')<form method="post" action="{{ address('draft.discard') }}">@csrf<input type="hidden" name="kind" value="{{
    $kind->value }}"><input type="hidden" name="name" value="{{
    $item->name }}"><button class="plain">Keep it after all</button></form>@endcan</td></tr>@endforeach
    </tbody></x-table>@endif
</div>
</x-layout>
