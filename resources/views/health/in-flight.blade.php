@php use App\Platform\Support\MomentStyle; use App\Platform\Support\Sql; use Fulcrion\Core\Text\Quantity; @endphp
<x-table name="In flight"><thead><tr><th scope="col">Statement</th><th scope="col">Account</th><th scope="col">Began</th>
    <th scope="col" class="n">Took</th><th scope="col" class="n">Waited</th><th scope="col" class="n">Read</th></tr></thead><tbody>
    @foreach($executions as $one)<tr data-row><td class="statement">@if($links)<a href="{{ address('system.show') }}?{{ http_build_query([
        'cluster' => $cluster->slug, 'at' => moment($at * 1_000_000, MomentStyle::Written, $zone), 'statement' =>
        $one->fingerprint]) }}">{{ Sql::line($one->text, 160) }}</a>
        @else{{ Sql::line($one->text, 200) }}@endif</td><td>{{ $one->user }}</td>
    <td class="nowrap">{{ moment($one->startedUs, MomentStyle::Second, $zone) }}</td>
    <td class="n">{{ Quantity::duration((float) $one->durationUs) }}</td><td class="n">{{ Quantity::duration((float) $one->waitedUs) }}</td>
    <td class="n">{{ Quantity::bytes($one->bytesRead) }}</td></tr>@endforeach</tbody></x-table>
