@php
    use App\Telemetry\Usage\Amount; use App\Telemetry\Usage\UsageAxis; use App\Telemetry\Usage\UsageField;
    use App\Usage\Application\UsageGrid; use App\Usage\Charts\ColumnsFigure; use Fulcrion\Core\Usage\UsageMeasure;
    $scope = $page->scope;
    $measure = $scope->measure;
    $grid = $page->grid;
    $most = $grid->most();
    $shade = fn (int $amount): int => $amount <= 0 ? 0 : (int) min(6, ceil(6 * sqrt($amount / $most)));
@endphp
<x-layout title="Explore use" bench="meter" sub="explore">
<div class="reading wide">
    <h1>{{ $page->sentence() }}</h1>
    <x-filters :to="address('usage.explore')" id="explore" data-explore>
    @foreach($scope->only as $field => $value)<input type="hidden" name="{{ $field }}" value="{{ $value === ''
        ? UsageField::from($field)->none() : $value }}">@endforeach
    <fieldset class="fields"><legend>Fields</legend>@foreach(UsageAxis::all() as $axis)<span class="field" draggable="true"
        data-field="{{ $axis->key }}">{{ $axis->label() }}</span>@endforeach</fieldset>
    @foreach(['rows' => $page->rows, 'columns' => $page->columns] as $zone => $chosen)<div class="zone" data-zone="{{ $zone }}"><label
        for="x-{{ $zone }}">{{ ucfirst($zone) }}</label><select class="form-select" id="x-{{ $zone }}" name="{{ $zone }}">
        @foreach(UsageAxis::all() as $axis)<option value="{{ $axis->key }}" @selected($axis->key === $chosen->key)>{{ $axis->label() }}
        </option>@endforeach</select></div>@endforeach
    <div class="zone" data-zone="filter"><label for="x-filter">Filter by</label><select class="form-select" id="x-filter"
        name="filter"><option value="">nothing more</option>@foreach(UsageField::cases() as $field)@if($field !== UsageField::Statement)
        <option value="{{ $field->value }}" @selected($filter === $field)>{{ $field->label() }}</option>@endif @endforeach</select></div>
    <div><label for="x-days">Days</label><input class="form-control" id="x-days" name="days" value="{{ $scope->text }}" list="x-spans"
        autocomplete="off" @if($scope->complaint) aria-describedby="x-complaint" aria-invalid="true" @endif><datalist id="x-spans">
        <option>last 7 days</option><option>last 28 days</option><option>this month</option><option>last month</option></datalist></div>
    <div><label for="x-measure">Measure</label><select class="form-select" id="x-measure" name="measure">
        @foreach(UsageMeasure::cases() as $one)<option value="{{ $one->value }}" @selected($one === $measure)>{{ $one->label() }}</option>
        @endforeach</select></div>
    <div><label for="x-longer">Only executions longer than</label><input class="form-control" id="x-longer" name="longer" value="{{
        $scope->longerText }}" placeholder="10 s" autocomplete="off"></div>
    </x-filters>
    @if($scope->complaint !== null)<div class="notice bad" role="alert" id="x-complaint">{{
        $scope->complaint }}@if(str_contains($scope->complaint, 'span of days')) The last seven days are shown instead.@endif</div>@endif
    @if($scope->only !== [] || $filter !== null)<p class="chosen">@foreach($scope->only as $field => $value)<a class="chip" href="{{
        $page->address([$field => null]) }}" aria-label="Leave out the filter {{ UsageField::from($field)->label() }}">{{
        UsageField::from($field)->label() }}: {{ $value === '' ? UsageField::from($field)->none() : mb_strimwidth($value, 0, 40, '…') }}
        ×</a> @endforeach @if($filter !== null)<span class="quiet">{{ ucfirst($filter->label()) }}:</span> @foreach($values as $value)<a
        class="chip" href="{{ $page->address([$filter->value => $value]) }}">{{ $value }}</a> @endforeach @endif</p>@endif
    @if($page->figure === null)<x-empty>No usage matches. Choose other days, or leave out a filter.</x-empty>@else
    {!! App\Platform\Figures\StackFigure::legend('columns', ColumnsFigure::names($page)) !!}
    <x-figure :figure="$page->figure" name="Use by column" />
    <x-table :name="ucfirst($measure->label()).' by '.$page->rows->label().' and '.$page->columns->label()" :export="false" :columns="false"
        class="grid-table"><thead><tr><th scope="col">{{ ucfirst($page->rows->label()) }}</th><th scope="col" class="n">All</th>
        @if($scope->longerThanUs !== null)<th scope="col" class="n">Of all executions</th>@endif
        @foreach($grid->columns as $column)<th scope="col" class="n">{{ mb_strimwidth($page->name($page->columns, $column), 0, 26, '…') }}
        </th>@endforeach</tr></thead>
    <tbody>@foreach($grid->rows as $row)<tr data-row><td @class(['statement' => $page->rows->field === UsageField::Statement])>@php $to =
        $page->behind($row, null); @endphp @if($to !== null)<a href="{{ $to }}">{{ mb_strimwidth($page->name($page->rows, $row), 0, 110,
        '…') }}</a>@else{{ $grid->otherRows }} others @endif</td>
        <td class="n"><strong>{{ Amount::of($measure, $grid->rowTotals[$row] ?? 0) }}</strong></td>
        @if($scope->longerThanUs !== null)<td class="n">{{ $page->share($row) }}</td>@endif
        @foreach($grid->columns as $column)@php $amount = $grid->cell($row, $column); $to = $page->behind($row, $column); @endphp<td
        class="n cell h{{ $shade($amount) }}">@if($amount === 0)<span class="quiet">–</span>@elseif($to !== null)<a href="{{ $to }}">{{
        Amount::of($measure, $amount) }}</a>@else{{ Amount::of($measure, $amount) }}@endif</td>@endforeach</tr>@endforeach
    <tr class="sum"><th scope="row">all</th><td class="n">{{ Amount::of($measure, $grid->total) }}</td>
        @if($scope->longerThanUs !== null)<td class="n">{{ $page->shareOfAll() }}</td>@endif @foreach($grid->columns as $column)
        <td class="n">{{ Amount::of($measure, $grid->columnTotals[$column] ?? 0) }}</td>@endforeach</tr></tbody></x-table>
    @if($scope->longerThanUs !== null)<p class="quiet small">Counted one by one, within 2% of the duration, on days whose load is still
        kept; executions whose durations are known only as a sum are not among them.</p>@endif
    <div class="tools"><x-exports route="usage.explore-export" :query="$scope->query(['rows' => $page->rows->key,
        'columns' => $page->columns->key])" /><a href="{{ address('usage.explore-export', 'parquet') }}?{{ http_build_query($scope->query([
        'rows' => $page->rows->key, 'columns' => $page->columns->key])) }}">PARQUET</a></div>
    @endif
    <h2>Kept views</h2>
    @can('keep-views')<form class="tools" method="post" action="{{ address('usage.keep') }}">@csrf<input type="hidden" name="query"
        value="{{ http_build_query($scope->query(['rows' => $page->rows->key, 'columns' => $page->columns->key])) }}"><label
        for="x-name">Keep this one as</label> <input class="form-control" id="x-name" name="name" maxlength="120"
        value="{{ old('name') }}" @error('name') aria-invalid="true" @enderror> <button class="btn btn-line">Keep it</button>
        @error('name')<span class="bad-text" role="alert">{{ $message }}</span>@enderror</form>@endcan
    @if($views->isEmpty())<p class="quiet">None is kept yet. The address of this page can be shared as well.</p>@else
    <ul class="plain">@foreach($views as $view)<li><a href="{{ address('usage.explore') }}?{{ $view->query }}">{{ $view->name }}</a> <span
        class="quiet small">{{ $view->maker }}, {{ moment((int) $view->made_us) }}</span> @if((int) $view->user_id === auth()->id())<form
        method="post" action="{{ address('usage.forget', $view->id) }}" class="inline">@csrf<button class="plain" aria-label="Remove {{
        $view->name }}">remove</button></form>@endif</li>@endforeach</ul>@endif
</div>
</x-layout>
