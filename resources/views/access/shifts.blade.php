@if($shifts === [])<p>Nobody would see more or less than now.</p>@else
<x-table name="Who gains, who loses" export="Who gains and who loses"><thead><tr>
<th scope="col">For</th><th scope="col" class="n">People</th><th scope="col">What</th><th scope="col">Before</th>
<th scope="col">After</th><th scope="col">Who</th></tr></thead><tbody>
@foreach(array_slice($shifts, 0, 60) as $shift)<tr data-row><td><x-state :is="$shift->gains ? 'calm' : 'act'">{{
    $shift->gains ? 'more' : 'less' }}</x-state></td><td class="n">{{ count($shift->people) }}</td>
    <td class="small">@if($shift->kind === 'privileges')privileges on @elseif($shift->kind === 'rows')rows of @endif<span class="mono">{{
    $shift->places() }}</span></td>
    @foreach([$shift->before, $shift->after] as $rows)<td class="small">{{ Str::limit($rows,
        90) ?: 'nothing' }}@php $share = ($shares ?? [])[$shift->objects[0].' '.$rows] ?? null; @endphp @if($share !== null)<br><span
        class="quiet">{{ Fulcrion\Core\Text\Quantity::percent($share) }} of the rows (counted)</span>@endif</td>@endforeach
    <td class="small"><details class="more"><summary>{{ implode(', ', array_map(fn ($p) => substr($p, 7), array_slice($shift->people, 0,
        3))) }}{{ count($shift->people) > 3 ? ' and '.(count($shift->people) - 3).' more' : '' }}</summary>{{
        implode(', ', array_map(fn ($p) => substr($p, 7), $shift->people)) }}</details></td></tr>@endforeach
</tbody></x-table>
@if(count($shifts) > 60)<p class="quiet small">{{
    count($shifts) - 60 }} more groups are not listed; the file of the proof has them.</p>@endif
@endif
