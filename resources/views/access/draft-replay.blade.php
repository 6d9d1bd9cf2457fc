@php use Fulcrion\Core\Text\Quantity; $worse = array_filter($replay['changed'], fn ($r) => $r->isWorse());
    $sum = fn ($list) => array_sum(array_map(fn ($r) => $r->asked->executions, $list)); @endphp
<div id="replay"><p><strong>Of {{ Quantity::count($replay['executions']) }} executions of the last {{ $days }} days {{
    $replay['changed'] === [] ? 'none would have gone otherwise'
    : Quantity::count($sum($replay['changed'])).' would have gone otherwise, '.Quantity::count($sum(array_filter($worse,
    fn ($r) => $r->after === 'refused'))).' of them refused' }}.</strong> Asked by statement and account, with the values of the latest
    sample.</p>
@if($replay['changed'] !== [])<x-table
    name="Statements that would go otherwise"><thead><tr><th scope="col" class="n">Executions</th><th scope="col">Account</th>
<th scope="col">Before</th><th scope="col">After</th><th scope="col">Statement</th></tr></thead><tbody>
@foreach(array_slice($replay['changed'], 0, 40) as $one)<tr data-row><td class="n">{{ Quantity::count($one->asked->executions) }}</td>
<td>{{ substr($one->asked->subject, 7) }}</td><td>{{ $one->before }}</td>
<td><x-state :is="$one->after === 'refused' ? 'act' : ($one->isWorse() ? 'watch' : 'calm')">{{ $one->after }}{{
$one->after === $one->before ? ', otherwise' : '' }}</x-state></td><td class="small"><a class="mono" href="{{ address('try.show') }}?{{
http_build_query(['policy' => 'draft', 'cluster' => $one->asked->cluster, 'schema' => $one->asked->schema,
'who' => substr($one->asked->subject, 7), 'sql' => $one->asked->sql]) }}">{{ App\Platform\Support\Sql::line($one->asked->sql,
110) }}</a>@if($one->after === 'refused')<br><span class="quiet">{{ Str::limit($one->sentence, 160) }}</span>@endif</td></tr>@endforeach
</tbody></x-table>@endif
<p class="quiet small">As before: @foreach($replay['same'] as $outcome => $count){{ Quantity::count($count) }} {{
    $outcome }}@if(! $loop->last), @endif @endforeach.</p></div>
