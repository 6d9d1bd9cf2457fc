@php
    use Fulcrion\Core\Access\Policy\{Kind, FieldType, ItemChange, MaskKind};
    $of = collect($problems)->groupBy('field');
    $named = $kind !== Kind::Labels;
@endphp
<x-layout title="{{ $item === null ? 'Add a '.$kind->one() : $item->name }}" bench="guard" sub="policy">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('policy.kind', $kind->value) }}">{{ ucfirst($kind->value) }}</a></p>
    <h1>{{ $item === null ? 'Add a '.$kind->one() : ucfirst($kind->one()).' '.$item->name }}</h1>
    @error('value')<div class="notice bad" role="alert">{{ $message }}</div>@enderror
    @if($conflict !== null)
    <div class="notice bad" role="alert"><p><strong>{{ $conflict->getMessage() }}</strong></p>
        <x-table name="Theirs and yours" class="facts" :export="false" :sorts="false">
        <thead><tr><th scope="col">Field</th><th scope="col">Theirs</th><th scope="col">Yours</th></tr></thead>
        <tbody>@foreach($kind->fields() as $field)@php $theirs = ItemChange::show($conflict->theirs[$field->name] ?? ''); $yours =
        ItemChange::show($item->fields[$field->name] ?? ''); @endphp @if($theirs !== $yours)<tr><th scope="row">{{ $field->name }}</th>
        <td>{{ $theirs ?: 'nothing' }}</td><td>{{ $yours ?: 'nothing' }}</td></tr>@endif @endforeach @if($conflict->theirs === null)<tr>
        <td colspan="3">They have taken it out.</td></tr>@endif</tbody></x-table>
        <p>The form below holds yours. Keeping it puts it in the place of theirs; <a href="{{ address('policy.item',
            $kind->value) }}?name={{
            urlencode($name) }}">keep theirs</a> instead.</p></div>
    @endif
    @if($problems !== [])<div class="notice bad" role="alert">@foreach($problems as $problem)<p>{{
        $problem }}</p>@endforeach<p class="quiet">Nothing was changed.</p></div>@endif
    <form class="form-grid" method="post" action="{{ address('policy.save', $kind->value) }}" data-item-form
        data-checked-at="{{ address('policy.check') }}" >@csrf
        <input type="hidden" name="was" value="{{ $item?->name }}"><input type="hidden" name="revision" value="{{ $revision }}">
        @if($named)<label for="item-name">{{ $kind->isNamedByPath() ? 'Object' : 'Name' }}</label><input class="form-control"
            id="item-name" name="name" value="{{ old('name', $name !== '' ? $name : request()->query('for_name',
            '')) }}" @if($kind->isNamedByPath()) list="paths" @endif required maxlength="190">@endif
        @foreach($kind->fields() as $field)
            @php $id = 'field-'.str_replace(' ', '-', $field->name); $value = $start[$field->name] ?? ''; $bad = $of->has($field->name);
                @endphp
            <label for="{{ $id }}">{{ $field->name }}@if($field->required) <span class="quiet">(needed)</span>@endif</label>
            @switch($field->type)
                @case(FieldType::Choice)<select class="form-select" id="{{ $id }}" name="fields[{{
                    $field->name }}]">@if(! $field->required)<option value=""></option>@endif @foreach($field->choices as $choice)<option
                    @selected($choice === $value)>{{ $choice }}</option>@endforeach</select>@break
                @case(FieldType::Choices)@php $given = is_array($value) ? $value : explode("\n", $value); @endphp<fieldset class="ticks"
                    id="{{ $id }}" aria-label="{{ $field->name }}">@foreach($field->choices as $choice)<label class="check"><input
                    class="form-check-input" type="checkbox" name="fields[{{ $field->name }}][]" value="{{
                    $choice }}" @checked(in_array($choice, $given, true))> {{ $choice }}</label>@endforeach</fieldset>@break
                @case(FieldType::Flag)<label class="check"><input class="form-check-input" type="checkbox" id="{{ $id }}" name="fields[{{
                    $field->name }}]" value="1" @checked($value === '1' || $value === true)> yes</label>@break
                @case(FieldType::Day)<input class="form-control short-date" type="date" id="{{ $id }}" name="fields[{{
                    $field->name }}]" value="{{ $value }}">@break
                @case(FieldType::Count)<input class="form-control short" id="{{ $id }}" name="fields[{{ $field->name }}]" value="{{
                    $value }}" inputmode="numeric">@break
                @case(FieldType::Reference)<select class="form-select" id="{{ $id }}" name="fields[{{ $field->name }}]"><option value="">
                </option>@foreach(array_keys($document->all($field->of)) as $choice)<option @selected((string) $choice === $value)>{{
                $choice }}</option>@endforeach</select>@break
                @case(FieldType::Path)<input class="form-control" id="{{ $id }}" name="fields[{{ $field->name }}]" value="{{
                    $value }}" list="paths">@break
                @case(FieldType::Subject)<input class="form-control" id="{{ $id }}" name="fields[{{ $field->name }}]" value="{{
                    $value }}" list="subjects-full">@break
                @case(FieldType::Condition) @case(FieldType::Predicate)
                    <div><x-editor :id="$id" :name="'fields['.$field->name.']'" :value="$value" :rows="2" :described="$id.'-says'"
                        kind="condition" :words="$field->type === FieldType::Condition ? $words : []" placeholder=""
                        :data-checked="$field->type->value" /><p class="hint" id="{{ $id }}-says" data-says
                        aria-live="polite"></p></div>@break
                @case(FieldType::Text)<input class="form-control" id="{{ $id }}" name="fields[{{ $field->name }}]" value="{{
                    $value }}">@break
                @default<textarea class="form-control" id="{{ $id }}" name="fields[{{ $field->name }}]" rows="{{
                    $field->type === FieldType::LongText ? 2 : max(2, min(8, substr_count($value,
                    "\n") + 2)) }}" @if(in_array($field->type, [FieldType::Subjects, FieldType::Paths, FieldType::References],
                    true)) data-list="{{ $field->type === FieldType::Subjects ? 'subjects-full' : ($field->type === FieldType::Paths
                    ? 'paths' : "names-{$field->name}") }}" @endif>{{ $value }}</textarea>
            @endswitch
            <p class="hint">{{ $field->help }}{{ $field->isList() && $field->type !== FieldType::Choices ? '; one a line' : '' }}{{
                $field->type === FieldType::Map ? '; name = value, one a line, a list with commas' : '' }}@if($bad)<span class="bad-text"
                role="alert"> {{ $of[$field->name]->first()->message }}</span>@endif</p>
            @if($field->of !== null && $field->isList())<datalist id="names-{{
                $field->name }}">@foreach(array_keys($document->all($field->of)) as $choice)<option value="{{
                $choice }}">@endforeach</datalist>@endif
        @endforeach
        <datalist id="paths">@foreach($paths as $path)<option value="{{ $path }}">@endforeach</datalist>
        <datalist id="subjects-full">@foreach($subjects as $one)<option value="{{ $one }}">@endforeach</datalist>
        <span></span><div class="acts"><button class="btn btn-primary">{{
            $conflict !== null ? 'Keep mine' : 'Into the draft' }}</button>@if($item !== null && $conflict === null)<button
            class="btn btn-line" form="remove-item">Take it out</button>@endif</div>
    </form>
    @if($item !== null)<form id="remove-item" method="post" action="{{ address('policy.remove', $kind->value) }}">@csrf<input type="hidden"
        name="name" value="{{ $item->name }}"><input type="hidden" name="revision" value="{{ $revision }}"></form>@endif
    @if($kind === Kind::Masks && $item !== null)<h2>What it leaves</h2><form class="filters" hx-get="{{ address('policy.preview',
        $item->name) }}" hx-target="#preview"><div><label for="preview-object">Column to sample</label><input
        class="form-control wide" id="preview-object" name="object" list="paths"></div><button
        class="btn btn-line">Preview</button></form><div id="preview" aria-live="polite"></div>@endif
    @if($kind === Kind::Masks)<h2>Which mask is stricter</h2><p>Of two masks on one column the one further down holds: {{
        implode(' < ', array_map(fn ($k) => $k->value,
        MaskKind::cases())) }}. Within a kind, fewer characters or a larger step is stricter. A mask that makes no sense for a type shows
        nothing.</p>@endif
    @if($kind === Kind::Rules)<details class="more"><summary>Words of conditions</summary>
    <ul class="small">@foreach($functions as $function)<li><code>{{ $function[2] }}</code></li>@endforeach</ul>
    <p class="small">Combine them with AND, OR, NOT, =, &lt;&gt;, &lt;, &gt;, IN, LIKE, BETWEEN and IS NULL, as in SQL. A condition in
    error closes what it is about; what depends on an attribute the person does not have holds.</p></details>@endif
    @if($uses !== [])<h2>{{ count($uses) }} {{ Str::plural('item', count($uses)) }} use this key</h2>
    <p class="small">@foreach(array_slice($uses, 0, 30) as $use)<a href="{{ address('policy.item', $use->kind->value) }}?name={{
    urlencode($use->name) }}">{{ $use->kind->one() }} {{ $use->name }}</a>@if(! $loop->last), @endif @endforeach</p>
    <form class="filters" method="post" action="{{ address('label.rename') }}">@csrf<input type="hidden" name="from" value="{{
        $name }}"><div><label for="rename-to">Another name for it, everywhere it is used</label><input class="form-control"
        id="rename-to" name="to"></div><button class="btn btn-line">Rename</button>@error('to')<p class="bad-text" role="alert">{{
        $message }}</p>@enderror</form>@endif
    @if($published !== null)<p class="quiet small">In force: @foreach($published->fields as $field => $value){{ $field }} {{
        ItemChange::show($value) }}@if(! $loop->last); @endif @endforeach</p>@endif
</div>
</x-layout>
