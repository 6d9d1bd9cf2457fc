<x-layout title="Team" bench="meter" sub="team">
<div class="reading">
    @if($account === null)<h1>No team has used anything yet</h1>
    <x-empty>Teams come from the people of Guard; who belongs to nobody is counted as unassigned. Use is known a few minutes after
        executions come in.</x-empty>
    @else
    <h1>{{ $account->sentence() }}</h1>
    <x-filters :to="address('team.show')">
    <div><label for="t-team">Team</label><select class="form-select" id="t-team" name="team">@foreach($teams as $one)<option
        @selected($one === $account->team)>{{ $one }}</option>@endforeach</select></div>
    <div><label for="t-days">Days</label><input class="form-control" id="t-days" name="days" value="{{ $text }}" list="t-spans"
        autocomplete="off" @if($complaint !== null) aria-describedby="t-complaint" aria-invalid="true" @endif><datalist id="t-spans">
        <option>this month</option><option>last month</option><option>last 7 days</option></datalist></div>
    <div><label for="t-measure">Measure</label><select class="form-select" id="t-measure" name="measure">
        @foreach(Fulcrion\Core\Usage\UsageMeasure::cases() as $one)<option value="{{ $one->value }}" @selected($one
            === $account->measure())>{{ $one->label() }}</option>@endforeach</select></div>
    </x-filters>
    @if($complaint !== null)<div class="notice bad" role="alert" id="t-complaint">{{ $complaint }} This month is shown instead.</div>@endif
    <div class="tools"><a href="{{ address('team.account', 'pdf') }}?{{ http_build_query($query) }}">Statement of account (PDF)</a>
        <a href="{{ address('team.account', 'html') }}?{{ http_build_query($query) }}">as one HTML file</a>
        <a href="{{ address('usage.forecast') }}?{{ http_build_query(['team' => $account->team, 'measure' => $account->measure()->value])
            }}">Where its month will end</a>
        @can('price')<a href="{{ address('account.index') }}?team={{ urlencode($account->team) }}">Send it every month</a>@endcan</div>
    @if($account->hasUse() || ! $account->total()->isZero())@if($account->hasUse())<x-figure :figure="$account->figure()"
    name="Day by day" />@endif
    @include('cost.account-body', ['linked' => true])@else<x-empty>Neither in these days nor in those before was anything used. Choose
        other days.</x-empty>@endif
    @endif
</div>
</x-layout>
