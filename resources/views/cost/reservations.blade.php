@php use App\Platform\Support\MomentStyle; use Fulcrion\Core\Cost\IdleRule; @endphp
<h2>Who reserved it</h2>
<p>@if($rule->idle === IdleRule::ToReservers)Idle time is charged to these teams, each for the part it reserved and did not use; what nobody
    reserved has a line of its own.@else Reservations count where idle time is {{ IdleRule::ToReservers->label() }}; at present it is {{
    $rule->idle->label() }}.@endif</p>
@if($reservations !== [])
<x-table name="Reservations"><thead><tr><th scope="col">Team</th><th scope="col" class="n">Percent</th><th scope="col">Days</th>
    <th scope="col">Written by</th>@can('price')<th scope="col"><span class="visually-hidden">Act</span></th>@endcan</tr></thead>
<tbody>@foreach($reservations as $row)<tr data-row><td>{{ $row->team }}</td><td class="n">{{
    Brick\Math\BigDecimal::of($row->percent)->stripTrailingZeros() }}</td><td class="nowrap">{{ $row->to_at === null
    ? 'from '.onUtc((int) $row->from_at, MomentStyle::Day).' on'
    : (new Fulcrion\Core\Usage\Days((int) $row->from_at, (int) $row->to_at))->describe() }}</td><td>{{ $row->made_by }}</td>
    @can('price')<td class="acts"><form method="post" action="{{ address('cost.release', [$cluster->slug, $row->id]) }}">@csrf<button
    class="plain">Remove<span class="visually-hidden"> {{ $row->team }}</span></button></form></td>@endcan</tr>@endforeach</tbody>
</x-table>
@endif
@can('price')
<form class="form-grid" method="post" action="{{ address('cost.reserve', $cluster->slug) }}">@csrf
    <label for="v-team">Team</label><input class="form-control" id="v-team" name="team" maxlength="120" required list="v-teams"
    autocomplete="off" value="{{ old('team') }}"><datalist id="v-teams">@foreach($teams as $one)<option>{{ $one }}</option>@endforeach
    </datalist>@error('team')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
    <label for="v-percent">Percent of the cluster</label><input class="form-control" id="v-percent" name="percent" required
    inputmode="decimal" value="{{ old('percent') }}">@error('percent')<span class="hint bad-text" role="alert">{{ $message }}</span>
    @enderror
    <label for="v-from">From</label><input class="form-control" id="v-from" name="from" type="date" required value="{{ old('from') }}">
    <label for="v-to">Last day, where it ends</label><input class="form-control" id="v-to" name="to" type="date" value="{{ old('to') }}">
    <span></span><div><button class="btn btn-line">Reserve it</button></div>
</form>
@endcan
