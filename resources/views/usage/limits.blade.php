@php
    $some = $viewers->filter(fn ($one) => isset($limits[$one->id]))->count();
    $title = match (true) {
        $viewers->isEmpty() => 'There is no viewer',
        $some === 0 => 'Every viewer sees the use and cost of all teams',
        default => "{$some} of {$viewers->count()} ".Str::plural('viewer', $viewers->count()).($some === 1 ? ' sees' : ' see')
            .' some teams only',
    };
@endphp
<x-layout title="Who sees which teams" bench="meter" sub="limits">
<div class="reading">
    <h1>{{ $title }}</h1>
    <p class="quiet">The choice holds on every page, figure and export of use and cost. Engineers, stewards and owners work on whole
        clusters and see all teams.</p>
    @foreach($viewers as $viewer)
    <form method="post" action="{{ address('usage.limit', $viewer->id) }}">@csrf
    <fieldset class="choice-list">
        <legend><strong>{{ $viewer->name }}</strong> <span class="quiet small">{{ $viewer->email }}</span></legend>
        <label class="check"><input class="form-check-input" type="checkbox" name="all" value="1"
            @checked(! isset($limits[$viewer->id]))> all teams</label>
        @foreach($teams as $team)
        <label class="check"><input class="form-check-input" type="checkbox" name="teams[]" value="{{ $team }}"
            @checked(in_array($team, $limits[$viewer->id] ?? [], true))> {{ $team }}</label>
        @endforeach
        <button class="btn btn-line">Save</button>
    </fieldset></form>
    @endforeach
</div>
</x-layout>
