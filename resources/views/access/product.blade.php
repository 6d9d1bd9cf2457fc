@php use Fulcrion\Core\Access\Policy\{ObjectPath, Subject}; @endphp
<x-layout title="{{ $product->text('title') }}" bench="guard" sub="products">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('product.index') }}">Data products</a></p>
    <h1>{{ $product->text('title') }}: {{ lcfirst($product->text('purpose')) }}</h1>
    @if($product->text('description') !== '')<p>{{ $product->text('description') }}</p>@endif
    <x-facts><tr><th scope="row">owner</th><td>{{ Subject::show($product->text('owner')) }}</td>
    </tr>@if($product->text('contact') !== '')<tr><th scope="row">contact</th><td>{{ $product->text('contact') }}</td>
    </tr>@endif @if($product->texts('audience') !== [])<tr><th scope="row">for</th>
    <td>{{ implode(', ', $product->texts('audience')) }}</td></tr>@endif @foreach($product->texts('links') as $link)<tr>
    <th scope="row">link</th><td>@if(preg_match('~^https?://~', $link))<a href="{{ $link }}" rel="noreferrer noopener">{{
    $link }}</a>@else{{ $link }}@endif</td></tr>@endforeach</x-facts>
    @foreach($one['views'] as ['table' => $table, 'columns' => $columns])
    <h2 class="mono">{{ implode('.', array_slice(ObjectPath::parts($table->path), 1)) }}</h2>
    <p class="small">@foreach($columns as $name => $access)<span class="mono">{{ $name }}</span> <span class="quiet">{{
        $table->columns[$name] }}</span>@if($access->mask !== null) <x-sight
        :access="$access" />@endif @if(! $loop->last), @endif @endforeach</p>
    @php $sample = $samples[$table->path] ?? null; @endphp
    @if(is_string($sample))<div class="notice bad" role="alert">{{ $sample }}</div>@elseif($sample !== null)
        <x-table :name="'Sample of '.$table->path" :export="false" :sorts="false">
        <caption class="quiet small">A sample, as you may see it</caption><thead>
        <tr>@foreach($sample->columns as $column)<th scope="col">{{ $column->name }}</th>@endforeach</tr></thead>
        <tbody>@foreach($sample->rows as $row)<tr>@foreach($row as $c => $value)<td class="mono">{{
        $value === null ? 'NULL' : $sample->columns[$c]->type->show($value) }}</td>@endforeach</tr>@endforeach</tbody></x-table>@endif
    @endforeach
    @if($one['hidden'] > 0)
        <h2>{{ $one['hidden'] }} {{ Str::plural('view', $one['hidden']) }} you may not see</h2>
        @if($asked)<p>You have asked already; the answer will stand under <a href="{{ address('request.index') }}">Requests</a>.</p>@else
        <form class="form-grid" method="post" action="{{ address('request.store') }}">@csrf<input type="hidden" name="object"
            value="product:{{
            $product->name }}">
            <label for="ask-reason">What you need it for</label><textarea class="form-control" id="ask-reason" name="reason" rows="2">{{
                old('reason') }}</textarea>@error('reason')<p class="hint bad-text" role="alert">{{ $message }}</p>@enderror
            <label for="ask-until">Until</label><input class="form-control" id="ask-until" type="date" name="until" value="{{
                old('until') }}">
            <span></span><div><button class="btn btn-primary">Ask for access</button></div></form>@endif
    @endif
    @can('guard')<div class="tools"><a href="{{ address('policy.item', 'products') }}?name={{ urlencode($product->name) }}">Edit</a></div>
    @if($grants !== [])<h2>Its audience lacks {{ count($grants) }} {{ Str::plural('grant', count($grants)) }}</h2>
    <form class="remedy" method="post" action="{{ address('try.add') }}">@csrf<input type="hidden" name="back"
        value="{{ address('draft.show') }}"><ul>@foreach($grants as $grant)<li>Grant {{ implode(', ', $grant->texts('privileges')) }} on {{
        $grant->text('on') }} to {{ implode(', ', array_map(Subject::show(...), $grant->texts('to'))) }}<input type="hidden"
        name="items[]" value="{{ json_encode(['kind' => 'grants', 'name' => $grant->name,
        'fields' => $grant->fields]) }}"></li>@endforeach</ul>
        <p class="quiet small">The least that is needed: the views themselves, and never the tables below them.</p><button
        class="btn btn-primary">Add to the draft</button></form>@endif @endcan
</div>
</x-layout>
