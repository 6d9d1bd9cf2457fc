<h2>Signed in and tried</h2>
<x-table name="What the test user ran into" :export="false"><thead><tr><th scope="col">What</th><th scope="col">Expected</th>
<th scope="col">The server did</th></tr></thead><tbody>@foreach($lines as $line)<tr><td>{{ $line['what'] }}</td>
<td>{{ $line['expected'] }}</td><td @class(['off' => ! $line['holds']])>{{ $line['got'] }}</td></tr>@endforeach</tbody></x-table>
