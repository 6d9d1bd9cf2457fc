@php use Fulcrion\Core\Text\Quantity; @endphp
<h2>Statements of the last four weeks, under both</h2>
<x-table name="Outcomes" :export="false"><thead><tr><th scope="col">Outcome</th>
<th scope="col" class="n">Executions before</th><th scope="col" class="n">Executions after</th></tr></thead>
<tbody>@foreach($lines['outcomes'] as $outcome => [$before, $after])<tr><td>{{ $outcome }}</td>
<td class="n">{{ Quantity::count($before) }}</td><td class="n">{{ Quantity::count($after) }}</td></tr>@endforeach</tbody></x-table>
<h2>Who sees more, who sees less</h2>
@if($lines['shifts'] === [])<p>Nobody.</p>@else<x-table name="Who sees what" :export="false"><thead>
<tr><th scope="col">For</th><th scope="col" class="n">People</th><th scope="col">What</th><th scope="col">Before</th>
<th scope="col">After</th><th scope="col">Who</th></tr></thead><tbody>@foreach($lines['shifts'] as $shift)<tr>
<td>{{ $shift['gains'] ? 'more' : 'less' }}</td><td class="n">{{ $shift['people'] }}</td>
<td>{{ $shift['kind'] === 'columns' ? '' : $shift['kind'].' of ' }}{{ $shift['places'] }}</td>
<td>{{ $shift['before'] ?: 'nothing' }}</td><td>{{ $shift['after'] ?: 'nothing' }}</td><td class="small">{{ $shift['who'] }}</td>
</tr>@endforeach</tbody></x-table>@endif
@if($lines['changed'] !== [])<h2>Statements that go otherwise</h2>
<x-table name="Statements" :export="false"><thead><tr><th scope="col" class="n">Executions</th><th scope="col">Account</th>
<th scope="col">Before</th><th scope="col">After</th><th scope="col">Statement</th></tr></thead><tbody>
@foreach($lines['changed'] as $one)<tr>
<td class="n">{{ Quantity::count($one['executions']) }}</td><td>{{ $one['who'] }}</td><td>{{ $one['before'] }}</td>
<td>{{ $one['after'] }}</td><td class="small mono">{{ substr($one['statement'], 0, 12) }} {{ $one['why'] }}</td></tr>@endforeach</tbody>
</x-table>@endif
