@php use Fulcrion\Core\Text\Quantity; @endphp
<h2>Steps</h2>
<x-table name="Steps"><thead>
<tr>@if($choosing)<th scope="col"><span class="visually-hidden">Take</span></th>@endif<th scope="col">Step</th><th scope="col">State</th>
<th scope="col" class="n">A week</th><th scope="col" class="n">One run of each</th><th scope="col" class="n">Bytes read</th>
<th scope="col" class="n">Rewritten</th><th scope="col">Why</th><th scope="col">Change</th></tr></thead>
<tbody>@foreach($steps as $i => $step)@php $change = $changes[$step['change']] ?? null; @endphp<tr
    data-row>@if($choosing)<td>@if($change?->state === 'rehearsed')<input class="form-check-input" type="checkbox" name="changes[]"
    value="{{ $change->id }}" checked aria-label="Apply {{ $step['title'] }}">@endif</td>@endif
    <td>{{ $i === 0 ? '' : "{$i}. " }}{{ $step['title'] }}</td><td><x-state :is="['kept' => 'calm', 'failed' => 'act',
        'left out' => 'no data'][$step['state']] ?? 'no data'">{{ $i === 0 ? 'measured' : $step['state'] }}</x-state></td>
        <td class="n">{{ Quantity::duration($step['weekUs']) }}</td><td class="n">{{ Quantity::duration($step['sumUs']) }}</td>
        <td class="n">{{ Quantity::bytes($step['bytes']) }}</td>
        <td class="n">{{ $step['rewritten'] > 0 ? Quantity::bytes($step['rewritten']) : Quantity::NONE }}</td>
        <td>{{ $step['note'] }}</td><td>@if($change !== null)<a href="{{ address('change.show', $change->id) }}">change {{
            $change->id }}</a>, {{
        $change->doing->value ?? $change->state->value }}@endif</td></tr>@endforeach</tbody></x-table>
