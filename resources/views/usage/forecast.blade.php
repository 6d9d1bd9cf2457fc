@php use Fulcrion\Core\Usage\UsageMeasure; $scope = $page->scope;
    $only = $page->currency === null ? $scope->only : array_intersect_key($scope->only, ['team' => '']); @endphp
<x-layout title="Forecast" bench="meter" sub="forecast">
<div class="reading">
    <h1>{{ $page->sentence() }}</h1>
    <x-filters :to="address('usage.forecast')">
    @foreach($only as $field => $value)<input type="hidden" name="{{ $field }}" value="{{ $value === ''
        ? App\Telemetry\Usage\UsageField::from($field)->none() : $value }}">@endforeach
    <div><label for="f-measure">Measure</label><select class="form-select" id="f-measure" name="measure">
        @foreach(UsageMeasure::cases() as $one)<option value="{{ $one->value }}" @selected($one->value === $page->key())>{{ $one->label() }}
        </option>@endforeach<option value="cost" @selected($page->currency !== null)>cost</option></select></div>
    <div><label for="f-cluster">Cluster</label><select class="form-select" id="f-cluster" name="cluster"><option value="">all</option>
        @foreach($clusters as $one)<option value="{{ $one->slug }}" @selected($one->slug === ($scope->cluster->slug ?? ''))>{{ $one->name }}
        </option>@endforeach</select></div>
    </x-filters>
    @if($only !== $scope->only)<div class="notice">Cost is known by team and cluster; what else was chosen is left out.</div>@endif
    @if($only !== [])<p class="quiet">Only {{ implode(', ', array_map(fn ($field, $value) => "{$field}: ".($value === ''
        ? App\Telemetry\Usage\UsageField::from($field)->none() : $value), array_keys($only), $only)) }}.
        <a href="{{ address('usage.forecast') }}?{{ http_build_query(['measure' => $page->key()]) }}">All of it</a></p>@endif
    @if($page->all === null)<x-empty>A forecast needs days that are over. Come back tomorrow.
        @if($scope->teams === null)<a href="{{ address('import.index') }}">Bring in what ran before</a>@endif</x-empty>@else
    <x-figure :figure="$page->figure()" name="Forecast" />
    <p class="quiet small">{{ $page->record($page->all) }}.{{ $page->nearlyAll($page->all) }} Modelled;
        what is known ends with yesterday.</p>
    <h2>What if</h2>
    <form class="form-grid" method="get" action="{{ address('usage.forecast') }}">
        @foreach(Illuminate\Support\Arr::except($page->query(), 'days') as $field => $value)<input type="hidden" name="{{ $field }}"
            value="{{ $value }}">@endforeach
        <label for="w-grows">Days that are left have more, percent</label><input class="form-control" id="w-grows" name="grows"
        inputmode="decimal" placeholder="20" value="{{ $whatIf->asked['grows'] }}">
        <label for="w-statement">This statement runs as well</label><select class="form-select" id="w-statement" name="also">
        <option value="">none</option>@foreach($statements as $one => $text)<option value="{{ $one }}" @selected($one
        === $whatIf->asked['also'])>{{ substr((string) $one, 0, 8) }} {{ App\Platform\Support\Sql::line($text, 80) }}</option>@endforeach
        </select>
        <label for="w-every">Every so many minutes</label><input class="form-control" id="w-every" name="every" inputmode="numeric"
        value="{{ $whatIf->asked['every'] ?: 5 }}">
        @if($changes !== [])<label for="w-change">This change is applied</label><select class="form-select" id="w-change" name="change">
        <option value="">none</option>@foreach($changes as $id => $title)<option value="{{ $id }}" @selected((string) $id
        === $whatIf->asked['change'])>{{ $title }}</option>@endforeach</select>@endif
        @if($prices !== [])<label for="w-price">This price</label><select class="form-select" id="w-price" name="price">
        <option value="">as it is</option>@foreach($prices as $one)<option value="{{ $one->key }}" @selected($one->key
        === $whatIf->asked['price'])>{{ $one->label }}: {{ App\Platform\Support\Money::plain($one->price, $one->currency) }}</option>
        @endforeach</select>
        <label for="w-costs">is</label><input class="form-control" id="w-costs" name="costs" inputmode="decimal"
        value="{{ $whatIf->asked['costs'] }}">
        <label for="w-burst">A burst cluster runs, hours a day</label><input class="form-control" id="w-burst" name="burst"
        inputmode="decimal" value="{{ $whatIf->asked['burst'] }}">@endif
        <span></span><div><button class="btn btn-line">Compute it</button></div>
    </form>
    @if($whatIf->complaint !== null)<div class="notice bad" role="alert">{{ $whatIf->complaint }}</div>@endif
    @if($whatIf->isAsked())
    <x-table name="What if" class="narrow" :export="false" :sorts="false"><thead><tr><th scope="col">{{ $page->month->describe() }}</th>
        <th scope="col" class="n">Expected</th><th scope="col" class="n">Change</th></tr></thead>
    <tbody><tr><td>as it is</td><td class="n">{{ $page->amount($page->all->expected()) }}</td><td></td></tr>
        <tr><td>if {{ $whatIf->said() }}</td><td class="n">{{ $page->amount($whatIf->expected($page->all)) }}</td>
        <td class="n">{{ $page->change($whatIf->expected($page->all) - $page->all->expected()) }}</td></tr></tbody></x-table>
    <p class="quiet small">Modelled: the forecast of the days that are left, changed so; an execution at its mean of the last four
        weeks, a price by its part of what was paid then, a change by what it is expected to save.</p>
    @endif
    @if($page->teams !== [])
    <h2>By team</h2>
    <x-table name="Forecast by team" :export="false"><thead><tr><th scope="col">Team</th><th scope="col" class="n">Used</th>
        <th scope="col" class="n">Expected</th><th scope="col" class="n">From</th><th scope="col" class="n">To</th>
        <th scope="col">How it is forecast</th></tr></thead>
    <tbody>@foreach($page->teams as $team => $one)@php($range = $one->range(0.8))<tr data-row><td><a href="{{ address('usage.forecast')
        }}?{{ http_build_query($page->query(['team' => $team])) }}">{{ $team }}</a></td>
        <td class="n">{{ $page->amount($one->used()) }}</td><td class="n"><strong>{{ $page->amount($one->expected()) }}</strong></td>
        <td class="n">{{ $range === null ? '' : $page->amount($range[0]) }}</td><td class="n">{{ $range === null ? ''
        : $page->amount($range[1]) }}</td><td>{{ $page->record($one) }}</td></tr>@endforeach</tbody></x-table>
    <p class="quiet small">From and to: between these four of five such forecasts end. Teams are forecast each for itself, so they need not
        add up to the whole.</p>
    @endif
    <div class="tools"><x-exports route="usage.forecast-export" :query="$page->query()" /></div>
    @endif
</div>
</x-layout>
