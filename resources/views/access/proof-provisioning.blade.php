<h2>Signed in and selected</h2>
<x-table name="What the test user got" :export="false"><thead><tr><th scope="col">Role</th>
<th scope="col" class="n">People</th><th scope="col">Object</th><th scope="col">The policy says</th>
<th scope="col">The test user got</th></tr></thead><tbody>@foreach($lines as $line)<tr><td class="mono small">{{ $line['role'] }}</td>
<td class="n">{{ $line['people'] }}</td><td class="mono small">{{ $line['object'] }}</td><td>{{ $line['expected'] }}</td>
<td @class(['off' => ! $line['holds']])>{{ $line['got'] }}</td></tr>@endforeach</tbody></x-table>
