<x-layout title="On live servers" bench="guard" sub="policy">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('policy.index') }}">Policy</a></p>
    @php $waiting = array_sum(array_map(fn ($s) => count($s['plan']['statements'] ?? []), $servers)); @endphp
    <h1>{{ $servers === [] ? 'No live server is connected' : ($waiting === 0 ? 'Live servers say what the policy says'
        : $waiting.' statements would make live servers say what version '.$number.' of the policy says') }}</h1>
    @if($servers === [])<x-empty>Connect a MariaDB server under <a href="{{ address('cluster.index') }}">Tend</a>.</x-empty>@endif
    @foreach($servers as $server)
    <h2>{{ $server['cluster']->name }}</h2>
    @if(! $server['able'])<p class="quiet">This server was connected to be watched only: there is no account that may make roles there.</p>
    @elseif($server['trouble'])<div class="notice bad" role="alert">{{ $server['trouble'] }}</div>
    @else
        @php $plan = $server['plan']; @endphp
        <x-facts><tr><th scope="row">roles for people who stand alike</th><td>{{ count($plan['roles']) }}</td></tr>
        <tr><th scope="row">masked or filtered views</th><td>{{ array_sum(array_map(fn ($r) => count($r->views), $plan['roles'])) }}</td>
        </tr><tr><th scope="row">people without an account there</th><td>{{ count($plan['strangers']) }}</td></tr></x-facts>
        @foreach($plan['limits'] as $limit)<p class="quiet small">{{ $limit }}</p>@endforeach
        <div class="acts">@if($plan['statements'] !== [])<form method="post" action="{{ address('provisioning.propose',
            $server['cluster']->slug) }}">@csrf<button
            class="btn btn-primary">Propose the change that writes it out</button></form>@else<x-state
            is="calm">written out</x-state>@endif<form method="post" action="{{ address('provisioning.read',
                $server['cluster']->slug) }}">@csrf<button class="btn btn-line">Take its own grants into the draft</button></form></div>
        @if($plan['statements'] !== [])<details class="more">
        <summary>{{ count($plan['statements']) }} statements</summary>@foreach($plan['statements'] as $sql)<pre class="sql small"
        tabindex="0">{{ preg_replace("~'[0-9a-f]{32}'~", "'(key)'", $sql) }}</pre>@endforeach</details>@endif
        <h3>What it grants by itself</h3>
        <x-table :name="'Grants of '.$server['cluster']->name" :export="false" class="narrow">
        <thead><tr><th scope="col">Account or role</th><th scope="col">Holds</th><th scope="col">Grants</th></tr></thead>
        <tbody>@foreach($server['held']['accounts'] + $server['held']['roles'] as $name => $held)<tr>
        <td>{{ $name }}{{ isset($server['held']['roles'][$name]) ? ' (role)' : '' }}</td><td>{{ implode(', ', $held['roles']) }}</td>
        <td class="small">@foreach($held['grants'] as [$privileges, $path]){{ implode(', ', $privileges) }} on <span class="mono">{{
        $path }}</span>@if(! $loop->last); @endif @endforeach</td></tr>@endforeach</tbody></x-table>
    @endif
    @endforeach
    @if($changes->isNotEmpty())<h2>Written out before</h2><ul class="choose">@foreach($changes as $change)<li data-row><a
        href="{{ address('change.show', $change->id) }}">{{ $change->title }}</a> <x-state :is="$change->mark()">{{
        $change->state->value }}</x-state></li>@endforeach</ul>@endif
</div>
</x-layout>
