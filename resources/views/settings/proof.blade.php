<h2>Read back</h2>
<x-table name="Settings as they were read" :export="false"><thead><tr><th scope="col">What</th><th scope="col">Expected</th>
<th scope="col">Read</th></tr></thead><tbody>@foreach($lines as $line)<tr><td>{{ $line['what'] }}</td>
<td class="mono">{{ $line['expected'] }}</td><td @class(['mono', 'off' => ! $line['holds']])>{{ $line['got'] }}</td></tr>@endforeach
</tbody></x-table>
