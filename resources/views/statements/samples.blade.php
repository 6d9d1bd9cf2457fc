@php use App\Platform\Support\MomentStyle; use Fulcrion\Core\Text\Quantity; 
    $fingerprinter = new Fulcrion\Core\Sql\Fingerprinter($scope->cluster->dialect); @endphp
<div id="samples">
@if($samples['samples'] === [])
    <p>No single runs of this window are kept. Of each statement and hour the two slowest and three at random are, for {{
        $scope->cluster->sample_days }} days{{ $scope->cluster->isLive() ? ', as far as the server remembers single statements' : '' }}.</p>
@else
    <p class="quiet small">{{ count($samples['samples']) }} of {{ Quantity::count($samples['kept']) }} kept runs from {{
        Quantity::count($samples['hours']) }} hours: the slowest, then a random few.
    @unless($revealed) Literals and binds are hidden.@endunless</p>
    @unless($revealed)
        @can('reveal')
            <form method="post" action="{{ address('statement.reveal', $statement->fingerprint) }}?{{ http_build_query($scope->query()) }}"
                hx-post="{{ address('statement.reveal', $statement->fingerprint) }}?{{ http_build_query($scope->query()) }}"
                hx-target="#samples" hx-swap="outerHTML">@csrf
                <button class="btn btn-line">Reveal literals</button> <span class="quiet small">This is written to the ledger.</span></form>
        @else
            <p class="quiet small">Your role does not reveal them.</p>
        @endcan
    @else
        <div class="notice" role="status">Literals are shown; the ledger says so.</div>
    @endunless
    <x-table name="Samples" :export="false" :columns="true">
        <thead><tr><th scope="col">Began</th><th scope="col" class="n">Took</th><th scope="col">Who</th>
        <th scope="col" class="n">Examined</th><th scope="col" class="n">Returned</th><th scope="col">Ended</th><th scope="col">Text</th>
        </tr></thead>
        <tbody>
        @foreach($samples['samples'] as $sample)
            <tr>
                <td class="nowrap">{{ moment($sample['started_at_us'], MomentStyle::Second, $scope->zone) }}</td>
                <td class="n">{{ Quantity::duration($sample['duration_us']) }}</td>
                <td>{{ $sample['user'] ?? '(none)' }}<br><span class="quiet small">{{ $sample['client_host'] ?? '' }}</span></td>
                <td class="n">{{ Quantity::short($sample['rows_examined'] ?? null) }}</td>
                <td class="n">{{ Quantity::short($sample['rows_returned'] ?? null) }}</td>
                <td>{{ str_replace('_', ' ', $sample['status'] ?? 'ok') }}</td>
                <td class="mono">
                    @if($revealed)
                        <details class="more"><summary>{{ App\Platform\Support\Sql::line($sample['sql'], 90) }}</summary><pre
                            class="sql">{{ App\Platform\Support\Sql::pretty($sample['sql'], $scope->cluster->dialect) }}</pre></details>
                        @if(isset($sample['binds']))<div>binds: {{ json_encode($sample['binds'],
                            JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES) }}</div>@endif
                    @else
                        {{ App\Platform\Support\Sql::line($fingerprinter->of($sample['sql'])->text, 90) }}
                    @endif
                </td>
            </tr>
        @endforeach
        </tbody>
    </x-table>
@endif
</div>
