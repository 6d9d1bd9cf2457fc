@php use App\Cost\Http\Requests\AddQuantityRequest; use App\Platform\Support\MomentStyle; use Fulcrion\Core\Cost\PriceKind;
    use Fulcrion\Core\Text\Quantity; @endphp
<h2>How much there is</h2>
<p>Nodes are counted by their price, bytes scanned and workers with each execution. Storage is measured: @if($stored === null)nothing was
    measured of {{ $cluster->name }} yet.@else{{ Quantity::bytes((float) $stored->bytes) }}{{ $stored->is_modelled ? ' (modelled)' : ''
    }} on {{ onUtc((int) $stored->day_at, MomentStyle::Day) }}.@endif
    Everything else is what somebody wrote down; it follows the same measure as the fixed cost, and none of it
    is idle.</p>
@if($quantities !== [])
<x-table name="Quantities"><thead><tr><th scope="col">What</th><th scope="col">Name</th><th scope="col" class="n">Quantity</th>
    <th scope="col">Unit</th><th scope="col">Days</th><th scope="col">Written by</th>@can('price')<th scope="col"><span
    class="visually-hidden">Act</span></th>@endcan</tr></thead>
<tbody>@foreach($quantities as $row)@php($kind = PriceKind::from($row->kind))<tr data-row><td>{{ $kind->name() }}</td><td>{{ $row->name
    }}</td><td class="n">{{ Brick\Math\BigDecimal::of($row->quantity)->stripTrailingZeros() }}</td><td>{{ $kind->unit() }}</td>
    <td class="nowrap">{{ $row->to_at === null ? 'from '.onUtc((int) $row->from_at, MomentStyle::Day).' on'
    : (new Fulcrion\Core\Usage\Days((int) $row->from_at, (int) $row->to_at))->describe() }}</td><td>{{ $row->made_by }}</td>
    @can('price')<td class="acts"><form method="post" action="{{ address('cost.remove-quantity', [$cluster->slug, $row->id]) }}">@csrf
    <button class="plain">Remove<span class="visually-hidden"> {{ $kind->name() }}</span></button></form></td>@endcan</tr>@endforeach
</tbody></x-table>
@endif
@can('price')
<form class="form-grid" method="post" action="{{ address('cost.quantity', $cluster->slug) }}">@csrf
    <label for="q-kind">What</label><select class="form-select" id="q-kind" name="kind">@foreach(AddQuantityRequest::kinds() as $one)
    <option value="{{ $one->value }}" @selected(old('kind') === $one->value)>{{ $one->name() }}, {{ $one->unit() }}</option>@endforeach
    </select>
    <label for="q-name">Name, as its price has it</label><input class="form-control" id="q-name" name="name" maxlength="120"
    value="{{ old('name') }}">
    <label for="q-quantity">Quantity</label><input class="form-control" id="q-quantity" name="quantity" required inputmode="decimal"
    value="{{ old('quantity') }}">@error('quantity')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
    <label for="q-from">From</label><input class="form-control" id="q-from" name="from" type="date" required value="{{ old('from') }}">
    <label for="q-to">Last day, of what was sent or burst</label><input class="form-control" id="q-to" name="to" type="date"
    value="{{ old('to') }}">@error('to')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
    <span></span><p class="hint quiet">Storage and backups: so much there is from that day on, until another amount is written. Bytes sent
        out and burst clusters: so much there was on these days together.</p>
    <span></span><div><button class="btn btn-line">Write it down</button></div>
</form>
@endcan
