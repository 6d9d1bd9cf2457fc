@php
    use App\Platform\Support\MomentStyle; use App\Platform\Support\Sql; use Fulcrion\Core\Health\Verdict; use Fulcrion\Core\Text\Quantity;
@endphp
<x-layout title="Is it the system?" bench="tend" sub="system">
<div class="reading">
    @if($cluster !== null)
    <x-filters :to="address('system.show')">
    <div><label for="system-cluster">Cluster</label><select class="form-select" id="system-cluster" name="cluster">
        @foreach($clusters as $each)<option value="{{ $each->slug }}" @selected($each->id === $cluster->id)>{{
            $each->name }}</option>@endforeach</select></div>
    <div><label for="system-at">When it was slow, {{ $zone->getName() }}</label><input class="form-control" id="system-at" name="at"
        value="{{ $at }}" placeholder="now" list="moments"><datalist id="moments"><option>now</option><option>monday 08:40</option>
        <option>yesterday 11:00</option></datalist></div>
    <div><label for="system-account">Account that complains</label><input class="form-control" id="system-account" name="account"
        value="{{ $account }}" placeholder="anybody" list="accounts"><datalist id="accounts">@foreach($page->accounts as $each)<option>{{
            $each }}</option>@endforeach</datalist></div>
    @if($statement !== null)<input type="hidden" name="statement" value="{{ $statement }}">@endif
    </x-filters>
    @endif
    <h1>{{ $page?->answer->sentence ?? 'No cluster is connected' }}</h1>
    @if($complaint !== null)<div class="notice bad" role="alert">{{ $complaint }} This moment is looked at instead.</div>@endif
    @if($page !== null)
    @if($page->text !== null)<p class="mono small"><a href="{{ address('statement.show', $page->answer->fingerprint) }}?{{
        http_build_query(['cluster' => $cluster->slug, 'window' => 'last 28 days']) }}">{{ Sql::line($page->text, 200) }}</a>
        @if($statement !== null)<a class="quiet small" href="{{ address('system.show') }}?{{ http_build_query(array_filter(['cluster' =>
        $cluster->slug, 'at' => $at, 'account' => $account])) }}">ask without it</a>@endif</p>@endif
    @if($page->figure !== null)<x-figure :figure="$page->figure" name="Probe" />
    @elseif($page->probe === null)<x-empty>A probe is a fixed statement that runs every few minutes. It is what a system that struggles is
        told by: set one below.</x-empty>
    @else<x-empty>The probe has run too rarely to say what it takes when the system is idle: it takes 12 runs.</x-empty>@endif
    <div class="columns"><div>
    <h2>What speaks for it</h2>
    <x-table name="Evidence" class="facts" :sorts="false" :export="false"><tbody>
        @foreach($page->answer->evidence as [$label, $value])<tr><th scope="row">{{ $label }}</th><td>{{
            $value }}</td></tr>@endforeach</tbody></x-table>
    </div>@if($page->answer->users !== [])<div>
    <h2>Who was at work then</h2>
    <x-table name="Accounts at work"><thead><tr><th scope="col">Account</th><th scope="col" class="n">At work, mean</th></tr></thead>
        <tbody>@foreach($page->answer->users as $name => $load)<tr><td>{{ $name === '' ? 'not known' : $name }}</td>
        <td class="n">{{ Quantity::digits($load) }}</td></tr>@endforeach</tbody></x-table>
    </div>@endif</div>
    @if($page->answer->slower !== [])
    <h2>What took longer than usual</h2>
    <x-table name="Slower statements"><thead><tr><th scope="col">Statement</th><th scope="col" class="n">Runs</th>
        <th scope="col" class="n">Took</th><th scope="col" class="n">Usual</th><th scope="col" class="n">Waited</th>
        <th scope="col" class="n">Read</th><th scope="col" class="n">Usual</th></tr></thead><tbody>
        @foreach($page->answer->slower as [$print, $sql, $now, $usual])<tr data-row><td class="statement"><a href="{{
            address('system.show') }}?{{ http_build_query(['cluster' => $cluster->slug, 'at' => $at, 'statement' => $print]) }}">{{
            Sql::line($sql, 160) }}</a></td><td class="n">{{ $now->executions }}</td>
            <td class="n">{{ Quantity::duration($now->tookUs) }}</td><td class="n">{{ Quantity::duration($usual->tookUs) }}</td>
            <td class="n">{{ Quantity::duration($now->waitedUs) }}</td>
            <td class="n">{{ Quantity::bytes($now->bytesRead) }}</td><td class="n">{{ Quantity::bytes($usual->bytesRead) }}</td></tr>
        @endforeach</tbody></x-table>
    @endif
    <p class="quiet small">One reason is given, the one that explains most of how much longer it took: the probe's time beside its idle
        time, waiting in queues or for locks, what it read beside what is usual for it, another plan, or a host that is slower than its
        neighbours. Usual is the middle of the days before, of 28 at most. Within five minutes of the moment.</p>
    <h2 id="probe">The probe of {{ $cluster->name }}</h2>
    @if($page->probe !== null)
    <p>It runs every {{ intdiv($page->probe->everySeconds, 60) }} min in the name of {{ ($page->setBy ?? 'somebody who is gone').
        ($page->dailyUs() === null ? '' : ' and costs '.Quantity::duration($page->dailyUs()).' of time in flight a day') }}.
        @if($cluster->connector === 'practice')<span class="scale">modelled</span> @endif
        @if(! $page->probe->isOn)<strong>It is off.</strong>@endif</p>
    @if($page->probe->lastError !== null)<div class="notice bad">Its last run failed: {{ $page->probe->lastError }}</div>@endif
    @can('probe')<pre class="sql">{{ $page->probe->sql }}</pre>
    <p><a href="{{ address('alert.create') }}?{{ http_build_query(['cluster' => $cluster->slug, 'signal' => 'probe:times']) }}">Set an alert
        on it</a></p>
    <form method="post" action="{{ address('probe.switch', $cluster->slug) }}">@csrf<input type="hidden" name="on" value="{{
        $page->probe->isOn ? 0 : 1 }}"><button class="btn btn-line">{{ $page->probe->isOn ? 'Switch it off' : 'Switch it on' }}</button>
    </form>@endcan
    @endif
    @can('probe')
    <h3>{{ $page->probe === null ? 'Set a probe' : 'Set another statement' }}</h3>
    <p class="quiet small">Choose a statement that takes some time when the system is idle, and always does the same. It is tried at once.
        @if($page->probe !== null)With another statement the history starts over, as the times of the two cannot be compared.@endif</p>
    <form class="form-grid" method="post" action="{{ address('probe.set') }}">@csrf<input type="hidden" name="cluster" value="{{
        $cluster->slug }}">
        <label for="p-statement">Statement</label><textarea class="form-control mono" id="p-statement" name="statement" rows="3" required
            maxlength="4000">{{ old('statement', $page->probe?->sql) }}</textarea>
        @error('statement')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="p-schema">Schema</label><input class="form-control" id="p-schema" name="schema" maxlength="64" value="{{
            old('schema', $page->probe?->schema) }}">
        @error('schema')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="p-minutes">Every, minutes</label><input class="form-control" id="p-minutes" name="minutes" type="number" min="1"
            max="60" required value="{{ old('minutes', intdiv($page->probe->everySeconds ?? 300, 60)) }}">
        @error('minutes')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <span></span><div><button class="btn btn-primary">Try and set it</button></div>
    </form>
    @else<p class="quiet">Engineers set probes.</p>@endcan
    @endif
</div>
</x-layout>
