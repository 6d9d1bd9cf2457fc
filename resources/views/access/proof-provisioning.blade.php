<h2>Signed in and selected</h2>
<div class="scroll" tabindex="0" role="region" aria-label="What the test user got"><table><thead><tr><th scope="col">Role</th>
<th scope="col" class="n">People</th><th scope="col">Object</th><th scope="col">The policy says</th>
<th scope="col">The test user got</th></tr></thead><tbody>@foreach($lines as $line)<tr><td class="mono small">{{ $line['role'] }}</td>
<td class="n">{{ $line['people'] }}</td><td class="mono small">{{ $line['object'] }}</td><td>{{ $line['expected'] }}</td>
<td @class(['off' => ! $line['holds']])>{{ $line['got'] }}</td></tr>@endforeach</tbody></table></div>
