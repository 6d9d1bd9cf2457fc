@php use Fulcrion\Core\Access\Policy\Kind; use Fulcrion\Core\Text\Quantity; $strays = array_sum(array_map(count(...), $stray)); @endphp
<x-layout title="Labels" bench="guard" sub="labels">
<div class="reading">
    <h1>{{ $strays === 0 ? 'Every label of a controlled key has a value of its vocabulary' : $strays.' '.Str::plural('label',
        $strays).' '.($strays === 1 ? 'has a value' : 'have values').' outside of the vocabulary' }}{{
        $found === [] ? '' : '; '.count($found).' '.Str::plural('column', count($found)).' '.(count($found) === 1 ? 'looks'
        : 'look').' personal and carry no label' }}</h1>
    @if($errors->any())<div class="notice bad" role="alert">{{ $errors->first() }}</div>@endif
    @foreach($stray as $key => $labels)
    <h2>{{ $key }}: values nobody allowed</h2>
    <form method="post" action="{{ address('label.fix') }}" data-all>@csrf
    <x-table :name="'Values of '.$key.' nobody allowed'" :export="false" class="narrow"><thead><tr>
    <th scope="col"><label class="check"><input class="form-check-input" type="checkbox" data-ticks-all> all</label></th>
    <th scope="col">Object</th><th scope="col">Value</th><th scope="col">Allowed</th></tr></thead><tbody>
    @foreach($labels as $label)<tr data-row><td><input class="form-check-input" type="checkbox" name="labels[]" value="{{
        $label->name }}" aria-label="{{ $label->text('on') }}"></td><td class="mono"><a href="{{ address('access.explain') }}?object={{
        urlencode($label->text('on')) }}">{{ $label->text('on') }}</a></td>
        <td><x-label-mark :document="$document" :name="$key" :value="$label->text('value')" stray /></td><td class="quiet">{{
        implode(', ', $document->find(Kind::Vocabulary, $key)->texts('values')) }}</td></tr>@endforeach
    </tbody></x-table>
    <div class="acts"><label for="fix-{{ md5($key) }}">The chosen ones get</label><select class="form-select short-select" id="fix-{{
        md5($key) }}" name="value">@foreach($document->find(Kind::Vocabulary, $key)->texts('values') as $value)<option>{{
        $value }}</option>@endforeach</select><button class="btn btn-primary">Fix them in the draft</button></div>
    </form>
    @endforeach
    <h2>Columns that look personal</h2>
    @if($found === [])<x-empty>In {{ $looked }} tables none was found that carries no label.</x-empty>@else
    <form method="post" action="{{ address('label.detected') }}" data-all>@csrf
    <x-table name="Columns that look personal" :export="false"><thead><tr>
    <th scope="col"><label class="check"><input class="form-check-input" type="checkbox" data-ticks-all> all</label></th>
    <th scope="col">Column</th><th scope="col">Looks like</th><th scope="col" class="n">Hits</th><th scope="col" class="n">Sampled</th>
    <th scope="col">Name says so</th><th scope="col">Examples, made unreadable</th></tr></thead><tbody>
    @foreach($found as $path => $detection)<tr data-row><td><input class="form-check-input" type="checkbox" name="paths[]" value="{{
        $path }}" aria-label="{{ $path }}"></td><td class="mono"><a href="{{ address('access.explain') }}?object={{ urlencode($path) }}">{{
        $path }}</a></td><td>{{ $detection->kind }}</td><td class="n">{{ Quantity::percent($detection->rate) }}</td>
        <td class="n">{{ $detection->sampled }}</td><td>{{ $detection->byName ? 'yes' : 'no' }}</td><td class="mono small">{{
        implode(', ', $detection->examples) }}</td></tr>@endforeach
    </tbody></x-table>
    <div class="acts"><button class="btn btn-primary" name="answer" value="accepted">Label the chosen ones in the draft</button><button
        class="btn btn-line" name="answer" value="rejected">They are not personal</button></div>
    </form>@endif
    <form class="tools" method="post" action="{{ address('label.detect') }}">@csrf<button
        class="plain">Look at samples again</button>@if($rejected !== [])<span class="quiet">{{
        count($rejected) }} were looked at and are not personal.</span>@endif</form>
    <h2>Keys under control</h2>
    <x-table name="Keys under control" :export="false"><thead><tr><th scope="col">Key</th>
    <th scope="col">Means</th><th scope="col">Values</th><th scope="col">May define</th><th scope="col">May assign</th>
    <th scope="col" class="n">Labels</th></tr></thead><tbody>
    @foreach($document->all(Kind::Vocabulary) as $entry)<tr data-row><td><a href="{{ address('policy.item', 'vocabulary') }}?name={{
        urlencode($entry->name) }}"><x-label-mark :document="$document" :name="$entry->name" /></a></td><td class="small">{{
        $entry->text('description') }}</td><td class="small">{{ implode(', ', $entry->texts('values')) ?: 'any' }}</td>
        <td class="small">{{ implode(', ', array_map(Fulcrion\Core\Access\Policy\Subject::show(...), $entry->texts('definers')))
        ?: 'any steward' }}</td><td class="small">{{ implode(', ', array_map(Fulcrion\Core\Access\Policy\Subject::show(...),
        $entry->texts('assigners'))) ?: 'any steward' }}</td><td class="n">{{ $uses[$entry->name] ?? 0 }}</td></tr>@endforeach
    </tbody></x-table>
    <div class="tools"><a href="{{ address('policy.item', 'vocabulary') }}">Take a key under control</a><a
        href="{{ address('policy.item', 'labels') }}">Put a label on an object</a><a href="{{ address('policy.kind',
            'labels') }}">All labels</a></div>
    @if($free !== [])<h2>Free keys</h2><p>@foreach($free as $key => $count)<a href="{{ address('policy.item', 'vocabulary') }}?for_name={{
        urlencode($key) }}"><x-label-mark :document="$document" :name="$key" /></a> <span class="quiet small">{{
        $count }}</span> @endforeach</p>
        <p class="quiet small">Nobody has said what these mean. Opening one takes it under control.</p>@endif
    @if($detected !== [])<h2>Set by detection</h2>
    <p>@foreach($detected as $label)<a class="mono small" href="{{ address('policy.item', 'labels') }}?name={{
        urlencode($label->name) }}">{{
    $label->text('on') }}</a> <x-label-mark :document="$document" :name="$label->text('key')" :value="$label->text('value')"
    detected /> @endforeach</p>@endif
</div>
</x-layout>
