@php use Fulcrion\Core\Access\Policy\Subject; $shown = array_filter($products, fn ($one) => $words === ''
    || str_contains(mb_strtolower($one['product']->text('title').' '.$one['product']->text('purpose').' '
        .$one['product']->text('description')), $words)); @endphp
<x-layout title="Data products" bench="guard" sub="products">
<div class="reading">
    <h1>{{ $products === [] ? 'No data product has something for you yet' : count($products).' data '.Str::plural('product',
        count($products)).' '.(count($products) === 1 ? 'has' : 'have').' something for you' }}</h1>
    <x-filters :to="address('product.index')">
    <x-search id="product-words" label="Words" :value="$words" />@can('guard')<a class="btn btn-primary"
        href="{{ address('policy.item', 'products') }}">Make a data product</a>@endcan</x-filters>
    @if($shown === [])<x-empty>{{
        $products === [] ? 'A product shows up here when its owner publishes it and one of its views is granted to you, '
            .'or you are in its audience.' : 'None has these words.' }} <a href="{{
                address('request.index') }}">Ask for access</a>.</x-empty>@endif
    @foreach($shown as $one)<section class="advice" data-row><h2 class="rule-title"><a href="{{ address('product.show',
        $one['product']->name) }}">{{
        $one['product']->text('title') }}</a> @if(! $one['product']->flag('published'))<x-state
        is="watch">not published</x-state>@endif</h2><p>{{ $one['product']->text('purpose') }}.</p><p class="quiet small">{{
        count($one['views']) }} {{ Str::plural('view', count($one['views'])) }} for you{{
        $one['hidden'] > 0 ? ", {$one['hidden']} you would have to ask for" : '' }}; owner {{
        Subject::show($one['product']->text('owner')) }}</p></section>@endforeach
</div>
</x-layout>
