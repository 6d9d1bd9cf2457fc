@php use App\Platform\Support\MomentStyle; use Fulcrion\Core\Text\Quantity; @endphp
@if($links)<x-figure :figure="$page['figure']" name="What happened when" />@else{!! $page['figure']->svg !!}<p class="quiet">{{
    $page['figure']->how }}</p>@endif
<h2>What rang</h2>
<x-table name="What rang" :export="$links"><thead><tr><th scope="col">Rang</th><th scope="col">Alert</th><th scope="col">Host</th>
    <th scope="col">What it was</th><th scope="col" class="n">For</th></tr></thead><tbody>@foreach($page['rings'] as $ring)<tr data-row>
    <td class="nowrap">{{ moment($ring->rang_at * 1_000_000, MomentStyle::Second, $zone) }}</td><td>@if($links && $ring->alert_id !==
    null)<a href="{{ address('alert.show', $ring->alert_id) }}">{{ $ring->alert_name }}</a>@else{{ $ring->alert_name }}@endif</td>
    <td>{{ $ring->host }}</td><td>{{ $ring->said }}</td><td class="n">{{ $ring->to_at === null ? 'goes on'
    : Quantity::duration(($ring->to_at - $ring->from_at) * 1e6) }}</td></tr>@endforeach</tbody></x-table>
@if($page['different'] !== [])<h2>What was different</h2>
<x-table name="What was different" :export="$links"><thead><tr><th scope="col">Measure</th><th scope="col">Of</th>
    <th scope="col" class="n">In the middle</th><th scope="col" class="n">Times the usual</th></tr></thead><tbody>
    @foreach($page['different'] as [$signal, $host, $times, $value])<tr data-row><td>{{ $signal->label }}</td><td>{{ $host === ''
    ? $incident->cluster->name : $host }}</td><td class="n">{{ $signal->say($value) }}</td><td class="n">× {{ Quantity::digits($times)
    }}</td></tr>@endforeach</tbody></x-table>
<p class="quiet small">Against the middle of the same hours of up to four weeks before; the furthest host of each measure, from 1.5 times as
    much or as little on.</p>@endif
@if($page['statements'] !== [])<h2>Statements that were new</h2>
<x-table name="New statements" :export="$links"><thead><tr><th scope="col">First seen</th><th scope="col">Statement</th></tr></thead><tbody>
    @foreach($page['statements'] as [$fingerprint, $text, $at])<tr data-row><td class="nowrap">{{ moment($at * 1_000_000,
    MomentStyle::Second, $zone) }}</td><td class="statement">@if($links)<a href="{{ address('statement.show', [$incident->cluster->slug,
    $fingerprint]) }}">{{ $text }}</a>@else{{ $text }}@endif</td></tr>@endforeach</tbody></x-table>@endif
<h2>Who did what</h2>
@if($page['acts'] === [])<p class="quiet">Nobody has done anything yet.</p>
@else<x-table name="Who did what" :export="$links" :sorts="false"><thead><tr><th scope="col">When</th><th scope="col">Who</th>
    <th scope="col">What</th></tr></thead><tbody>@foreach($page['acts'] as $act)<tr data-row><td class="nowrap">{{
    moment($act->at * 1_000_000, MomentStyle::Second, $zone) }}</td><td class="nowrap">{{ $act->who }}</td><td class="said">{{ $act->said
    }}</td></tr>@endforeach</tbody></x-table>@endif
