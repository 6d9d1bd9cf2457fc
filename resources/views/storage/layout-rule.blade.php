<x-layout title="{{ $rule->title() }}" bench="tune" sub="layout">
<div class="reading">
    <p class="trail"><a href="{{ address('layout.index') }}">Layout</a> / <a data-back href="{{
        address('layout.rules') }}">House rules</a></p>
    <h1>{{ $rule->title() }}</h1>
    <p><strong>{{ $rule->reason() }}</strong></p>
    @foreach($rule->guidance() as $paragraph)<p>{{ $paragraph }}</p>@endforeach
    @if($rule->thresholds() !== [])<h2>When it is broken</h2><x-facts>@foreach($rule->thresholds() as [$default,
        $meaning])<tr><th scope="row">{{ $meaning }}</th><td class="n">{{ Fulcrion\Core\Text\Quantity::digits($default) }}</td>
        </tr>@endforeach</x-facts><p class="quiet small">These are the defaults; every cluster can have its own.</p>@endif
    <p><a href="{{ address('layout.index') }}?rule={{ $rule->id() }}">Tables that break it</a></p>
</div>
</x-layout>
