@php use Fulcrion\Core\Text\Quantity; @endphp
@if($after->error !== '')<td colspan="3"><span class="bad-text">{{ $after->error }}</span></td>
@elseif($before->error !== '')<td colspan="2">{{ $verb === 'saved' ? 'without it, it does not end' : 'as it is, it does not end' }}: {{
    $before->error }}</td><td>cannot be compared</td>
@else
<td class="n">{{ Quantity::duration($before->us()) }} → {{ Quantity::duration($after->us()) }}<br><span class="small">{{ $verb }} {{
    $before->us() > $after->us() ? Quantity::percent(1 - $after->us() / max(1, $before->us())) : 'nothing' }}</span></td>
<td class="n">{{ Quantity::bytes($before->bytesRead) }} → {{ Quantity::bytes($after->bytesRead) }}</td>
<td>@if($before->digest === null || $after->digest === null)too many rows to compare @elseif($before->digest === $after->digest)<x-state
    is="calm">equal, {{ Quantity::count($after->rows) }} {{ Str::plural('row', $after->rows) }}</x-state>@else<x-state
    is="act">they differ: do not use it</x-state>@endif</td>
@endif
