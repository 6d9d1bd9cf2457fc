<x-layout title="Versions {{ $a }} and {{ $b }}" bench="guard" sub="draft">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('version.index') }}">Versions</a></p>
    <h1>{{ $changes === [] ? "Versions {$a} and {$b} say the same" : count($changes).' '.Str::plural('item',
        count($changes)).' '.(count($changes) === 1 ? 'differs' : 'differ')." from version {$a} to version {$b}" }}</h1>
    <h2>Who gains, who loses</h2>@include('access.shifts')
    @if($changes !== [])<h2>Items</h2>@include('access.change-list')@endif
</div>
</x-layout>
