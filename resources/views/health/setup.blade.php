@php
    $open = array_filter($steps, fn ($step) => $step->mark !== 'calm');
    $wrong = array_filter($compared ?? [], fn ($row) => ! $row['agrees']);
@endphp
<x-layout title="Monitoring of {{ $cluster->name }}" bench="tend" sub="setup">
<div class="reading">
    <h1>{{ $open === [] ? "Monitoring of {$cluster->name} has all it needs" : "Monitoring of {$cluster->name} lacks ".count($open).' '
        .(count($open) === 1 ? 'thing' : 'things') }}</h1>
    <div class="tools">@foreach($clusters as $one)<a class="choice" href="{{ address('setup.show', $one->slug) }}" @if($one->id ===
        $cluster->id) aria-current="page" @endif>{{ $one->name }}</a> @endforeach</div>
    <ol class="setup">@foreach($steps as $step)<li><h2><x-state :is="$step->mark">{{ $step->title }}</x-state></h2><p>{{ $step->said }}</p>
        @if($step->statement !== '')<pre class="sql">{{ $step->statement }}</pre>@endif
        @if($step->page !== null)<p><a href="{{ $step->page[1] }}">{{ $step->page[0] }}</a></p>@endif
        @if($step->part !== null)@include($step->part)@endif</li>@endforeach
        <li><h2><x-state :is="$compared === null ? 'no data' : ($wrong === [] ? 'calm' : 'act')">Does it agree?</x-state></h2>
        <p>{{ $cluster->isLive() ? 'The server is asked, read and asked again: what is kept has to lie between its two answers.'
            : 'What all nodes read has to be what all executions read.' }}</p>
        <form method="post" action="{{ address('setup.compare', $cluster->slug) }}">@csrf<button class="btn btn-primary">Read now and
            compare</button></form>
        @if($compared !== null)<x-table name="Comparison" :sorts="false"><thead><tr><th scope="col">Measure</th>
            <th scope="col" class="n">Its answer before</th><th scope="col" class="n">Kept</th><th scope="col" class="n">Its answer
            after</th><th scope="col">Agrees</th></tr></thead><tbody>@foreach($compared as $row)<tr><td class="mono">{{ $row['what'] }}</td>
            <td class="n">{{ $row['before'] }}</td><td class="n">{{ $row['kept'] }}</td><td class="n">{{ $row['after'] }}</td>
            <td><x-state :is="$row['agrees'] ? 'calm' : 'act'">{{ $row['agrees'] ? 'yes' : 'no' }}</x-state></td></tr>@endforeach</tbody>
        </x-table>
        <p>{{ $wrong === [] ? 'All of it agrees.' : 'Something is read in another way than the server answers: look at the rows that '
            .'do not agree.' }} <a href="{{ $cluster->isLive() ? address('state.show').'?'.http_build_query(['cluster' => $cluster->slug])
            : address('host.beside').'?'.http_build_query(['cluster' => $cluster->slug]) }}">See the first values</a></p>@endif</li></ol>
</div>
</x-layout>
