@php
    use Fulcrion\Core\Usage\UsageMeasure;
    $scope = $page->scope;
@endphp
<x-filters :to="$to">
    @foreach($scope->only as $field => $value)<input type="hidden" name="{{ $field }}" value="{{ $value === ''
        ? App\Telemetry\Usage\UsageField::from($field)->none() : $value }}">@endforeach
    @isset($by)<input type="hidden" name="by" value="{{ $by->value }}">@endisset
    <div><label for="u-days">Days</label><input class="form-control" id="u-days" name="days" value="{{ $scope->text }}" list="u-spans"
        autocomplete="off" @if($scope->complaint) aria-describedby="u-complaint" aria-invalid="true" @endif><datalist id="u-spans">
        <option>last 7 days</option><option>last 14 days</option><option>this month</option><option>last month</option></datalist></div>
    <div><label for="u-measure">Measure</label><select class="form-select" id="u-measure" name="measure">
        @foreach(UsageMeasure::cases() as $one)<option value="{{ $one->value }}" @selected($one === $scope->measure)>{{ $one->label() }}
        </option>@endforeach</select></div>
    <div><label for="u-cluster">Cluster</label><select class="form-select" id="u-cluster" name="cluster"><option value="">all</option>
        @foreach($clusters as $one)<option value="{{ $one->slug }}" @selected($one->slug === ($scope->cluster->slug ?? ''))>{{ $one->name }}
        </option>@endforeach</select></div>
</x-filters>
@if($scope->complaint !== null)<div class="notice bad" role="alert" id="u-complaint">{{ $scope->complaint }} The last seven days are shown
    instead.</div>@endif
