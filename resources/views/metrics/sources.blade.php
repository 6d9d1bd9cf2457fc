@php
    use App\Metrics\Intake\SourceKind; use App\Platform\Support\MomentStyle; use Fulcrion\Core\Text\Quantity;
    $silent = $sources->filter(fn ($one) => $now - $one->last_at > 600); $off = $sources->filter(fn ($one) => $one->ahead_ms != 0);
    $refused = $sources->filter(fn ($one) => $one->refused > 0);
@endphp
<x-layout title="Sources of metrics" bench="tend" sub="sources">
<div class="reading">
    <h1>{{ match (true) {
        $sources->isEmpty() => 'No host is heard of yet',
        $silent->isNotEmpty() => "{$silent->first()->host} has not been heard of for "
            .Quantity::duration(($now - $silent->first()->last_at) * 1e6)
            .($silent->count() > 1 ? ', nor '.($silent->count() - 1).' others' : ''),
        $refused->isNotEmpty() => "Not all that {$refused->first()->host} sends can be taken",
        $off->isNotEmpty() => "The clock of {$off->first()->host} is off",
        default => 'All hosts are heard of',
    } }}</h1>
    @if($sources->isNotEmpty())<x-table name="Sources"><thead><tr><th scope="col">Host</th><th scope="col">Cluster</th>
        <th scope="col">Told by</th><th scope="col" class="n">Series</th><th scope="col">Last heard of</th><th scope="col">Its clock</th>
        <th scope="col">What could not be taken the last time</th></tr></thead><tbody>@foreach($sources as $one)<tr data-row>
        <td><a href="{{ address('host.show') }}?{{ http_build_query(['cluster' => $clusters[$one->cluster_id]->slug ?? '', 'host' =>
            $one->host]) }}">{{ $one->host }}</a></td><td>{{ $clusters[$one->cluster_id]->name ?? '' }}</td>
        <td>{{ SourceKind::tryFrom($one->kind)?->label() ?? $one->kind }}</td>
        <td class="n">{{ $series["{$one->cluster_id} {$one->host}"] ?? 0 }}</td>
        <td class="nowrap"><x-state :is="$now - $one->last_at > 600 ? 'act' : 'calm'">{{ moment($one->last_at * 1_000_000,
            MomentStyle::Second) }}</x-state></td>
        <td>{{ $one->ahead_ms == 0 ? 'right' : Quantity::duration(abs($one->ahead_ms) * 1e3).($one->ahead_ms > 0 ? ' ahead' : ' behind').
            ', put right here' }}</td>
        <td>{{ $one->complaint ?? '' }}</td></tr>@endforeach</tbody></x-table>
    @else<x-empty>Hosts are told of by the agent, by exporters that speak OTLP, or by addresses that are asked.</x-empty>@endif
    <h2>Addresses that are asked</h2>
    @if($scrapes === [])<p class="quiet">None yet. An address answers with text of OpenMetrics.</p>
    @else<x-table name="Addresses"><thead><tr><th scope="col">Host</th><th scope="col">Address</th><th scope="col" class="n">Every</th>
        <th scope="col">Asked last</th><th scope="col">Added by</th><th scope="col">Act</th></tr></thead><tbody>
        @foreach($scrapes as $one)<tr data-row><td>{{ $one->host }}</td><td class="mono">{{ $one->address }}</td>
        <td class="n">{{ $one->everySeconds }} s</td><td>@if($one->askedAt === 0)not yet @else<x-state
            :is="$one->lastError === null ? 'calm' : 'act'">{{ moment($one->askedAt * 1_000_000, MomentStyle::Second) }}</x-state>@endif
            @if($one->lastError !== null)<div class="bad-text small">{{ $one->lastError }}</div>@endif</td><td>{{ $one->madeBy }}</td>
        <td>@can('connect')<form method="post" action="{{ address('source.remove', $one->id) }}" data-confirm="Stop asking {{ $one->host
            }}?">@csrf<button class="plain bad-text">Remove<span class="visually-hidden"> {{ $one->host }}</span></button>
            </form>@endcan</td></tr>@endforeach</tbody></x-table>@endif
    @can('connect')
    <form class="form-grid" method="post" action="{{ address('source.add') }}">@csrf
        <label for="s-cluster">Cluster</label><select class="form-select" id="s-cluster" name="cluster">@foreach($clusters as $one)<option
            value="{{ $one->slug }}" @selected(old('cluster') === $one->slug)>{{ $one->name }}</option>@endforeach</select>
        @error('cluster')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="s-host">Name of the host</label><input class="form-control" id="s-host" name="host" required maxlength="120"
            value="{{ old('host') }}">@error('host')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="s-address">Address</label><input class="form-control" id="s-address" name="address" required maxlength="500"
            placeholder="http://fern-01.example:9100/metrics" value="{{ old('address') }}">
        @error('address')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="s-seconds">Every, seconds</label><input class="form-control" id="s-seconds" name="seconds" type="number" min="10"
            max="3600" required value="{{ old('seconds', 30) }}">
        @error('seconds')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <span></span><div><button class="btn btn-primary">Add and ask</button></div>
    </form>
    @else<p class="quiet">Engineers add addresses.</p>@endcan
    <h2>The agent</h2>
    <p>Any Linux host with PHP can tell of itself: put the file <code>bin/agent</code> there, a token that may send metrics of hosts (page
        of the cluster, Tokens) into a file, and run it as a service (<code>server/fulcrion-agent.service</code>) or from cron with
        <code>--once</code>. It keeps for a day what it cannot send.</p>
    <pre class="sql">agent --url={{ url('/') }} --token-file=/etc/fulcrion-agent.token --every=10</pre>
    <h2>OTLP</h2>
    <p>Exporters of OpenTelemetry send here as <code>http/json</code>, with the token in a header:</p>
    <pre class="sql">OTEL_EXPORTER_OTLP_METRICS_ENDPOINT={{ url('/api/v1/metrics') }}
OTEL_EXPORTER_OTLP_METRICS_PROTOCOL=http/json
OTEL_EXPORTER_OTLP_METRICS_HEADERS="Authorization=Bearer TOKEN"</pre>
</div>
</x-layout>
