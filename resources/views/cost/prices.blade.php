@php
    use App\Platform\Support\MomentStyle; use App\Cost\Application\CostRule; use App\Cost\Application\Prices;
    use Fulcrion\Core\Cost\IdleRule; use Fulcrion\Core\Cost\PriceKind;
@endphp
<x-layout title="Prices" bench="meter" sub="prices">
<div class="reading">
    <h1>{{ $cluster === null ? 'No cluster is there to have a price' : ($rows === [] ? "{$cluster->name} has no price yet"
        : $cluster->name.' has '.count($rows).' '.Str::plural('price', count($rows)).', in '.$rule->currency) }}</h1>
    @if($cluster !== null)
    <x-filters :to="address('cost.prices')"><div><label for="p-cluster">Cluster</label><select class="form-select" id="p-cluster"
        name="cluster">@foreach($clusters as $one)<option value="{{ $one->slug }}" @selected($one->is($cluster))>{{ $one->name }}</option>
        @endforeach</select></div></x-filters>
    @if($rows === [])<x-empty>A price holds from its moment on, until the same is priced again. Nodes and fees are paid for as long as
        they are there, bytes scanned by use.</x-empty>@else
    <x-table name="Prices"><thead><tr><th scope="col">What</th><th scope="col">Name</th><th scope="col" class="n">Price</th>
        <th scope="col" class="n">How many</th><th scope="col" class="n">Above, a month</th><th scope="col">From, {{ $zone }}</th>
        <th scope="col">Written by</th>@can('price')<th scope="col"><span class="visually-hidden">Act</span></th>@endcan</tr></thead>
    <tbody>@foreach($rows as $row)@php $price = Prices::price($row); @endphp<tr data-row><td>{{ $price->kind->label() }}{{
        $price->isReserved ? ', reserved' : '' }}</td><td>{{ $price->name }}</td>
        <td class="n">{{ $price->amount->stripTrailingZeros() }}</td>
        <td class="n">{{ $price->kind === PriceKind::NodeHour ? $price->quantity->stripTrailingZeros() : '' }}</td>
        <td class="n">{{ $price->above->isZero() ? '' : $price->above->stripTrailingZeros() }}</td>
        <td class="nowrap">{{ onClocks($price->from, MomentStyle::Written) }}</td>
        <td>{{ $row->made_by }}</td>@can('price')<td class="acts"><form method="post" action="{{ address('cost.remove', [$cluster->slug,
        $row->id]) }}">@csrf<button class="plain">Remove<span class="visually-hidden"> {{ $price->kind->label() }}</span></button></form>
        </td>@endcan</tr>@endforeach</tbody></x-table>@endif
    @can('price')
    <h2>Add a price</h2>
    <form class="form-grid" method="post" action="{{ address('cost.add', $cluster->slug) }}">@csrf
        <label for="p-kind">What is paid for</label><select class="form-select" id="p-kind" name="kind">
        @foreach(PriceKind::cases() as $one)<option value="{{ $one->value }}" @selected(old('kind') === $one->value)>{{ $one->label()
        }}</option>@endforeach</select>
        @error('kind')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="p-name">Name, where there are several</label><input class="form-control" id="p-name" name="name" maxlength="120"
        value="{{ old('name') }}">@error('name')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="p-amount">Price in {{ $rule->currency }}</label><input class="form-control" id="p-amount" name="amount" required
        inputmode="decimal" value="{{ old('amount') }}">@error('amount')<span class="hint bad-text" role="alert">{{ $message }}</span>
        @enderror
        <label for="p-quantity">How many nodes</label><input class="form-control" id="p-quantity" name="quantity" inputmode="decimal"
        value="{{ old('quantity') }}">@error('quantity')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="p-above">Of a month, above</label><input class="form-control" id="p-above" name="above" inputmode="decimal"
        value="{{ old('above') }}">@error('above')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="p-from">From, {{ $zone }}</label><input class="form-control" id="p-from" name="from" required
        placeholder="2026-11-15 13:30" value="{{ old('from') }}">@error('from')<span class="hint bad-text"
        role="alert">{{ $message }}</span>@enderror
        <span></span><label class="check"><input class="form-check-input" type="checkbox" name="is_reserved" value="1"
        @checked(old('is_reserved'))> reserved by a contract</label>
        <span></span><div><button class="btn btn-primary">Add it</button></div>
    </form>
    <h2>How cost is given to teams</h2>
    <form class="form-grid" method="post" action="{{ address('cost.rule', $cluster->slug) }}">@csrf
        <label for="r-currency">Currency</label><input class="form-control" id="r-currency" name="currency" maxlength="3" required
        value="{{ old('currency', $rule->currency) }}">@error('currency')<span class="hint bad-text" role="alert">{{ $message }}</span>
        @enderror
        <label for="r-follows">Fixed cost follows</label><select class="form-select" id="r-follows" name="follows">
        @foreach(CostRule::FOLLOWS as $one)<option value="{{ $one->value }}" @selected($rule->follows === $one)>{{ $one->label() }}</option>
        @endforeach</select>
        <label for="r-idle">Idle time is</label><select class="form-select" id="r-idle" name="idle">@foreach(IdleRule::cases() as $one)
        <option value="{{ $one->value }}" @selected($rule->idle === $one)>{{ $one->label() }}</option>@endforeach</select>
        <span></span><div><button class="btn btn-line">Keep it</button></div>
    </form>
    @else<p class="quiet">Owners write prices.</p>@endcan
    @include('cost.quantities')
    @include('cost.reservations')
    @endif
</div>
</x-layout>
