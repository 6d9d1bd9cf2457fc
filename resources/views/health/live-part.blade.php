@php
    use App\Health\Charts\LiveBar; use App\Platform\Support\MomentStyle; use Fulcrion\Core\Text\Quantity;
    $asks = fn (array $more): string => address('host.live-part').'?'.http_build_query(array_filter(['cluster' => $cluster?->slug, 'host' =>
        $host, 'at' => $text]) + $more);
    $bytes = fn (string $name): string => ($view->values[$name] ?? null) === null ? Quantity::NONE : Quantity::bytes($view->values[$name]);
@endphp
<div id="live" @if($isNow && ! $isPaused && $view !== null) hx-get="{{ $asks([]) }}" hx-trigger="every 2s" hx-swap="outerHTML" @endif>
    @if($view === null)<h1>{{ $host === null ? 'No host is read yet' : "Nothing is known of {$host} at that moment" }}</h1>
    <x-empty>Choose another moment, or look at <a href="{{ address('source.index') }}">who tells of hosts</a>.</x-empty>
    @else
    <h1>{{ $host }} {{ $isNow ? 'is' : 'was' }} {{ $view->busy() === null ? 'not read whole'
        : Quantity::percent($view->busy()).' busy' }}</h1>
    <p class="quiet small">{{ moment($view->at * 1_000_000, MomentStyle::Second, $zone) }}, of {{
        Quantity::duration($view->seconds * 1e6) }}{{ match (true) {
            $isOwn => '', $cluster?->connector === 'practice' => ', modelled', default => ', as it was kept',
        } }}.
        @if($isNow)<button type="button" class="plain" hx-get="{{ $asks($isPaused ? [] : ['paused' => 1]) }}" hx-target="#live"
            hx-swap="outerHTML">{{ $isPaused ? 'Resume' : 'Pause' }}</button>@endif</p>
    {!! LiveBar::draw($view) !!}
    <p class="key">@foreach($view->processor() as $name => $part)<span>{{ $name }} {{ Quantity::percent($part) }}</span>@if(! $loop->last) ·
        @endif @endforeach</p>
    <x-table name="This moment" class="facts" :sorts="false" :export="false"><tbody>
        <tr><th scope="row">memory used</th><td>{{ $bytes('memory.used') }} of {{ $bytes('memory.limit') }}</td></tr>
        <tr><th scope="row">disks</th><td>{{ $bytes('disk.read') }}/s read, {{ $bytes('disk.write') }}/s written, {{
            ($view->values['disk.busy'] ?? null) === null ? Quantity::NONE : Quantity::percent($view->values['disk.busy']) }} of the time
            at work</td></tr>
        <tr><th scope="row">network</th><td>{{ $bytes('network.in') }}/s in, {{ $bytes('network.out') }}/s out</td></tr>
        @if(isset($view->values['load']))<tr><th scope="row">load average</th><td>{{
            Quantity::digits($view->values['load']) }}</td></tr>@endif
        @if(isset($view->values['disk.used']))<tr><th scope="row">file systems</th><td>{{ $bytes('disk.used') }} of {{ $bytes('disk.limit')
            }}</td></tr>@endif
    </tbody></x-table>
    @if($view->processes !== [])<h2>The busiest processes</h2>
    <x-table name="Processes" :sorts="false" :export="false"><thead><tr><th scope="col" class="n">Number</th><th scope="col">Name</th>
        <th scope="col" class="n">Of a processor</th><th scope="col" class="n">Memory</th></tr></thead><tbody>
        @foreach($view->processes as $one)<tr><td class="n">{{ $one->pid }}</td><td class="mono">{{ $one->name }}</td>
        <td class="n">{{ Quantity::percent($one->processors) }}</td><td class="n">{{ Quantity::bytes($one->residentBytes) }}</td></tr>
        @endforeach</tbody></x-table>
    @endif
    <h2>Statements in flight on {{ $cluster?->name }}</h2>
    @if($executions === [])<p class="quiet">None that is kept one by one{{ $isNow ? ', in the last minute' : '' }}.</p>
    @else @include('health.in-flight', ['links' => true])@endif
    @endif
</div>
