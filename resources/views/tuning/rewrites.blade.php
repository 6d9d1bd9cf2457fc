@php
    use Fulcrion\Core\Text\Quantity;
    [$cluster, $schema, $sql] = $asked ?? [$clusters[0] ?? null, '', ''];
@endphp
<x-layout title="Rewrites" bench="tune" sub="rewrites">
<div class="reading">
    <h1>{{ $asked === null ? 'Write a statement, and see what the planner makes of it and what each rewrite is worth'
        : ($trouble !== null ? 'The statement could not be looked at' : (count($rewrites) === 0 ? 'The planner runs it as it is written'
        : 'The planner rewrote it in '.count($rewrites).' '.Str::plural('way',
        count($rewrites)).'; it takes '.Quantity::duration($all->us()).' (modelled)').($suggestions === [] ? ''
        : ', and it could be written '.(count($suggestions) === 1 ? 'another way' : 'in '.count($suggestions).' other ways'))) }}</h1>
    @if($trouble)<div class="notice bad" role="alert">{{ $trouble }}</div>@endif
    <details class="more" @if($asked === null) open @endif><summary>{{ $asked === null ? 'The statement' : 'Another statement' }}</summary>
    <form class="form-grid" method="post" action="{{ address('rewrite.ask') }}">@csrf
        @if($errors->any())<p class="bad-text hint" role="alert">{{ $errors->first() }}</p>@endif
        <label for="rewrite-cluster">Cluster</label><select class="form-select" id="rewrite-cluster" name="cluster">@foreach($clusters
            as $each)<option value="{{ $each->slug }}" @selected($each->id === $cluster?->id)>{{ $each->name }}</option>@endforeach</select>
        <label for="rewrite-schema">Schema</label><input class="form-control mono" id="rewrite-schema" name="schema" value="{{
            old('schema', $schema) }}">
        <label for="rewrite-sql">SQL</label><x-editor id="rewrite-sql" :value="old('sql', $sql)" />
        <button class="btn btn-primary">Look at it</button>
    </form></details>
    @if($asked !== null)
    <pre class="sql" tabindex="0">{{ App\Platform\Support\Sql::pretty($sql) }}</pre>
    @if($rewrites !== [])
    <h2>What the planner did, and what each step saved</h2>
    <x-table name="Rewrites"><thead><tr>
    <th scope="col">Rewrite</th><th scope="col" class="n">Rows expected, without → with</th><th scope="col" class="n">Modelled time</th>
    <th scope="col" class="n">Bytes read</th><th scope="col">Answers</th></tr></thead>
    <tbody>@foreach($rewrites as $name => $one)<tr data-row hx-get="{{ address('rewrite.without', [$key,
        $name]) }}" hx-trigger="load delay:{{ $loop->index * 150 }}ms" hx-target="find .measured" hx-swap="outerHTML"><td><strong>{{
        $one['title'] }}</strong><br><span class="small">{{ $one['words'] }}</span></td>
        <td class="n">{{ Quantity::count($one['estimatedRows']) }} → {{ Quantity::count($estimated) }}</td>
        <td class="measured quiet" colspan="3" role="status">running it without…</td></tr>@endforeach</tbody></x-table>
    <p class="quiet small">Each rewrite is switched off by itself and the statement run again on {{
        $cluster->name }}; a run that takes longer than 20 s is stopped. Expected rows are those of all steps together, from statistics.</p>
    @endif
    @if($suggestions !== [])
    <h2>What you could write instead</h2>
    @foreach($suggestions as $one)
    <section class="advice"><h3>{{ $one->title }}</h3><p>{{ $one->why }}</p><pre class="sql" tabindex="0">{{
        App\Platform\Support\Sql::pretty($one->sql) }}</pre>
    <x-table :name="$one->title" :sorts="false" :export="false" class="narrow"><thead><tr>
    <th scope="col" class="n">Modelled time</th><th scope="col" class="n">Bytes read</th><th scope="col">Answers</th></tr></thead><tbody>
    <tr hx-get="{{ address('rewrite.instead', [$key, $one->id]) }}" hx-trigger="load delay:400ms" hx-target="find .measured"
    hx-swap="outerHTML"><td class="measured quiet" colspan="3" role="status">running both…</td></tr></tbody></x-table>
    <div class="tools"><a href="{{ address('workbench.show') }}?cluster={{ $cluster->slug }}&amp;schema={{ $schema }}&amp;sql={{
        rawurlencode($one->sql) }}">Open it in the workbench</a></div></section>
    @endforeach
    @elseif(! $trouble)<p class="quiet">There is nothing to write differently that the planner would not find by itself.</p>@endif
    @endif
</div>
</x-layout>
