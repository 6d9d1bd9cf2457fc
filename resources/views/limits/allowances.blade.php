@php use App\Platform\Support\Money; use Fulcrion\Core\Limits\AllowanceMeasure; @endphp
<x-layout title="Allowances" bench="meter" sub="allowance">
<div class="reading">
    <h1>{{ $allowances === [] ? 'No allowance is set' : $allowances[0]->sentence() }}</h1>
    @if($allowances === [])<x-empty>An allowance is what accrues with each day a cluster is in use, as an hour of a burst cluster,
        gathers up to a cap and is used up before anything costs. Here you see what is left, when it runs out
        and what comes after.</x-empty>@endif
    @foreach($allowances as $i => $one)
    @if($i > 0)<h2>{{ $one->sentence() }}</h2>@endif
    <x-figure :figure="$figures[$i]" :name="ucfirst($one->measure->label()).' of '.$one->cluster->name" />
    @can('price')<form method="post" action="{{ address('allowance.remove', $one->id) }}" data-confirm="Remove the allowance of {{
        $one->measure->label() }} on {{ $one->cluster->name }}?">@csrf<button class="plain bad-text">Remove it</button></form>@endcan
    @endforeach
    @if($allowances !== [])<x-table name="Allowances"><thead><tr><th scope="col">Cluster</th><th scope="col">Of</th>
        <th scope="col" class="n">A day in use adds</th><th scope="col" class="n">At most</th><th scope="col" class="n">Left</th>
        <th scope="col" class="n">Beyond it, so far this month</th><th scope="col" class="n">At the end of it, expected</th>
        <th scope="col">Standing</th><th scope="col">Set by</th></tr></thead><tbody>@foreach($allowances as $one)<tr data-row>
        <td>{{ $one->cluster->name }}</td><td>{{ $one->measure->label() }}</td>
        <td class="n">{{ $one->amount($one->outlook->allowance->perDay) }}</td>
        <td class="n">{{ $one->amount($one->outlook->allowance->cap) }}</td><td class="n">{{ $one->amount($one->outlook->balance()) }}</td>
        @foreach([false, true] as $expected)@php($cost = $one->cost($expected))<td class="n">{{ $cost === null
        ? $one->amount(array_sum(array_slice($one->outlook->beyond($one->month), 0, $expected ? 2 : 1)))
        : Money::plain($cost, $one->currency) }}</td>@endforeach
        <td class="nowrap"><x-state :is="$one->mark()">{{ $one->standing() }}</x-state></td><td>{{ $one->madeBy }}</td></tr>@endforeach
        </tbody></x-table>
    <p class="quiet small">Hours of burst clusters and bytes sent out are what was <a href="{{ address('cost.prices') }}">written
        down</a> with the prices; all else is counted. Expected: modelled from each day up to yesterday.</p>@endif
    @can('price')
    <h2>Set an allowance</h2>
    <form class="form-grid" method="post" action="{{ address('allowance.add') }}">@csrf
        <label for="w-cluster">Cluster</label><select class="form-select" id="w-cluster" name="cluster">@foreach($clusters as $one)<option
        value="{{ $one->slug }}" @selected(old('cluster') === $one->slug)>{{ $one->name }}</option>@endforeach</select>
        @error('cluster')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="w-measure">Of</label><select class="form-select" id="w-measure" name="measure">
        @foreach(AllowanceMeasure::cases() as $one)<option value="{{ $one->value }}" @selected(old('measure') === $one->value)>{{
        $one->label() }}</option>@endforeach</select>
        @error('measure')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        @foreach(['per_day' => 'A day in use adds', 'cap' => 'At most', 'start' => 'Balance at the start'] as $field => $label)
        <label for="w-{{ $field }}">{{ $label }}</label><input class="form-control" id="w-{{ $field }}" name="{{ $field }}"
        inputmode="decimal" value="{{ old($field, $field === 'start' ? '0' : '') }}" @required($field !== 'start')>
        @error($field)<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        @endforeach
        <label for="w-from">From the day</label><input class="form-control" id="w-from" name="from" type="date" required
        value="{{ old('from') }}">@error('from')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="w-price">Each one beyond it costs</label><input class="form-control" id="w-price" name="price" inputmode="decimal"
        placeholder="not known" value="{{ old('price') }}">
        @error('price')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="w-currency">Currency</label><input class="form-control" id="w-currency" name="currency" required maxlength="3"
        value="{{ old('currency', config('fulcrion.currency')) }}">
        @error('currency')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <span></span><div><button class="btn btn-primary">Set it</button></div>
    </form>
    @else<p class="quiet">Owners set allowances.</p>@endcan
</div>
</x-layout>
