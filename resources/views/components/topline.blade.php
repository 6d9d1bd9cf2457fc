@props(['scope', 'rail', 'action', 'against' => false])
@php
    /** @var App\Statements\Application\StatementScope $scope */
    $clusters = App\Estate\Models\Cluster::query()->orderByRaw("role = 'production' DESC")->orderBy('id')->get();
    $keep = Illuminate\Support\Arr::except(request()->query(), ['cluster', 'window', 'against', 'page']);
@endphp
<form id="scope" class="topline" method="get" action="{{ $action }}">
    @foreach($keep as $name => $value)
        @foreach((array) $value as $each)
            <input type="hidden" name="{{ is_array($value) ? $name.'[]' : $name }}" value="{{ $each }}">
        @endforeach
    @endforeach
    <div>
        <label for="scope-cluster">Cluster</label>
        <select id="scope-cluster" class="form-select" name="cluster" data-submits>
            @foreach($clusters as $cluster)<option value="{{ $cluster->slug }}" @selected($cluster->id === $scope->cluster->id)>{{
                $cluster->name }}</option>@endforeach
        </select>
    </div>
    <div>
        <label for="scope-window">Window, {{ $scope->zone->getName() }}</label>
        <input id="scope-window" class="form-control" type="text" name="window" value="{{ $scope->windowText }}" list="scope-windows"
            autocomplete="off" data-submits @if($scope->complaint) aria-describedby="scope-complaint" aria-invalid="true" @endif>
        <datalist id="scope-windows">@foreach(['last 3 hours', 'last 24 hours', 'yesterday 06:00-09:00', 'last 7 days',
            'last 28 days'] as $text)<option value="{{ $text }}">@endforeach</datalist>
    </div>
    @if($against)
        <div>
            <label for="scope-against">compared with</label>
            <input id="scope-against" class="form-control" type="text" name="against" value="{{
                $scope->againstText }}" list="scope-againsts" autocomplete="off" data-submits>
            <datalist id="scope-againsts">@foreach(['the window before', 'the day before', 'the week before'] as $text)<option value="{{
                $text }}">@endforeach</datalist>
        </div>
    @endif
    <noscript><button class="btn btn-line">Look</button></noscript>
</form>
@if($scope->complaint)<div class="notice bad" role="alert" id="scope-complaint">{{
    $scope->complaint }} The last 24 hours are shown.</div>@endif
@php
    $span = $rail['to'] - $rail['from'];
    $top = max([...$rail['loads'], 1e-9]);
    $x = fn (int $at): float => round(max(0, min(1000, 1000 * ($at - $rail['from']) / $span)), 2);
    $path = 'M0 54';
    foreach ($rail['loads'] as $i => $load) {
        $y = round(52 - 48 * sqrt($load / $top), 1);
        $path .= 'L'.round(1000 * $i / count($rail['loads']), 2).' '.$y.'L'.round(1000 * ($i + 1) / count($rail['loads']), 2).' '.$y;
    }
    $ends = [$x($scope->window->from), $x($scope->window->to)];
    $midnights = [];
    $day = (new DateTimeImmutable('@'.$rail['from']))->setTimezone($scope->zone)->setTime(0, 0)->modify('+1 day');
    for (; $day->getTimestamp() < $rail['to']; $day = $day->modify('+1 day')) { $midnights[] = $day; }
@endphp
<div class="rail" data-rail data-form="scope" data-from="{{ $rail['from'] }}" data-to="{{ $rail['to'] }}" data-window-from="{{
    $scope->window->from }}" data-window-to="{{ $scope->window->to }}" data-zone="{{ $scope->zone->getName() }}">
    <svg viewBox="0 0 1000 54" preserveAspectRatio="none" role="group" aria-label="Time rail: load of the last 14 days; greatest hour {{
        Fulcrion\Core\Text\Quantity::digits($top) }} executions in flight. Drag to set the window.">
        @foreach($midnights as $midnight)
            @if(in_array($midnight->format('N'), ['6', '7'], true))<rect class="night" x="{{ $x($midnight->getTimestamp()) }}" y="0"
                width="{{ round($x($midnight->getTimestamp() + 86400) - $x($midnight->getTimestamp()), 2) }}" height="54"/>@endif
        @endforeach
        <path class="load" d="{{ $path }}L1000 54Z"/>
        @foreach($rail['gaps'] as [$began, $ended])<rect class="gap" x="{{ $x($began) }}" y="0" width="{{
            max(1, $x($ended) - $x($began)) }}" height="54"><title>nothing was read</title></rect>@endforeach
        @foreach($rail['marks'] as $at => $name)<path class="happened" d="M{{ $x($at) }} 0V54"><title>{{ moment($at * 1_000_000,
            App\Platform\Support\MomentStyle::Minute, $scope->zone) }}: {{ $name }}</title></path>@endforeach
        @if($scope->against)
            <rect class="second" x="{{ $x($scope->against->from) }}" y="0" width="{{
                max(1, $x($scope->against->to) - $x($scope->against->from)) }}" height="54"/>
            @foreach([$x($scope->against->from), $x($scope->against->to)] as $end)<line class="edge old" x1="{{ $end }}" x2="{{
                $end }}" y1="0" y2="54"/>@endforeach
        @endif
        <rect class="bracket" x="{{ $ends[0] }}" y="0" width="{{ max(1, $ends[1] - $ends[0]) }}" height="54"/>
        @foreach($ends as $end)<line class="edge now" x1="{{ $end }}" x2="{{ $end }}" y1="0" y2="54"/>@endforeach
        @foreach($ends as $i => $end)<rect class="handle" x="{{ $end - 6 }}" y="0" width="12" height="54" tabindex="0" role="slider"
            aria-label="{{ $i === 0 ? 'Start of window' : 'End of window' }}" aria-valuemin="{{ $rail['from'] }}" aria-valuemax="{{
            $rail['to'] }}" aria-valuenow="{{ $i === 0 ? max($rail['from'], $scope->window->from) : min($rail['to'],
            $scope->window->to) }}" aria-valuetext="{{ Fulcrion\Core\Time\WindowText::format($scope->window, $scope->zone) }}"/>@endforeach
    </svg>
    <span class="said">{{ Fulcrion\Core\Time\WindowText::format($scope->window, $scope->zone) }}</span>
    <div class="days" aria-hidden="true">@foreach(range(0, 13) as $i)<span>{{
        (new DateTimeImmutable('@'.($rail['from'] + (int) ($i * $span / 14) + 43200)))->setTimezone($scope->zone)->format('D j M')
        }}</span>@endforeach</div>
</div>
