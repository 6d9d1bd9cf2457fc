@php use Fulcrion\Core\Text\Quantity; @endphp
<x-layout title="Indexes" bench="tune" sub="indexes">
<div class="reading">
    <h1>{{ $page?->sentence() ?? ($cluster === null ? 'No live server is watched yet' : 'The indexes could not be looked at') }}</h1>
    @if($trouble)<div class="notice bad" role="alert">{{ $trouble }}</div>@endif
    @if($cluster === null)<x-empty>Indexes are a matter of live servers. <a
        href="{{ address('cluster.index') }}">Add one</a> to see which it lacks.</x-empty>@endif
    @if($page !== null)
    <x-filters :to="address('index.index')">
    <div><label for="index-cluster">Server</label><select class="form-select"
        id="index-cluster" name="cluster" data-submits>@foreach($clusters as $each)<option value="{{
        $each->slug }}" @selected($each->id === $cluster->id)>{{ $each->name }}</option>@endforeach</select>
        </div></x-filters>
    @if($page->unread !== [])<div class="notice"><p>{{ count($page->unread) }} {{ Str::plural('table', count($page->unread)) }} that
        statements without an index ask for cannot be looked at, so nothing is said of {{ count($page->unread) === 1 ? 'it' : 'them' }}:
        {{ implode(', ', array_slice(array_keys($page->unread), 0, 6)) }}{{ count($page->unread) > 6 ? ' and more' : '' }}. To allow it:
        </p><pre class="sql">{{ implode(";\n", $page->grants()) }};</pre></div>@endif
    <h2>Missing</h2>
    @if($page->missing === [])<x-empty>Of {{
        count($page->statements) }} statements none that reads whole tables, sorts or keeps rows aside would be helped by an index on
        the {{ count($page->tables) }} tables that can be changed from here.</x-empty>@else
    <x-table name="Missing indexes"><thead><tr>
    <th scope="col">Table</th><th scope="col">Index</th><th scope="col">For</th><th scope="col" class="n">Rows an execution reads</th>
    <th scope="col" class="n">Saves a week</th><th scope="col" class="n">Space</th>@can('run')<th scope="col"><span
    class="visually-hidden">Acts</span></th>@endcan</tr></thead>
    <tbody>@foreach($page->missing as $p)@php $most = collect($p->served)->sortByDesc('savedUs')->first(); @endphp<tr data-row>
    <td class="mono">{{ $p->table }}</td><td><details class="twin"><summary class="mono">{{ implode(', ', $p->columns) }}</summary><pre
    class="sql">{{ $p->create() }}</pre></details></td>
        <td>@foreach($p->served as $id => $one)<a class="mono" href="{{ address('statement.show', $id) }}?cluster={{
            $cluster->slug }}&amp;window=last+28+days">{{ substr((string) $id, 0, 8) }}</a>{{ $one['covers'] ? ' without the table'
            : '' }}{{ $one['sort'] ? ' without sorting' : '' }}{{ $loop->last ? '' : ', ' }}@endforeach</td>
        <td class="n">{{ Quantity::count(round($most['rowsNow'])) }} → {{ Quantity::count(round($most['rowsThen'])) }}</td>
        <td class="n">{{ Quantity::duration($p->savedUs()) }}</td>
        <td class="n">{{ Quantity::bytes($page->tables[$p->table]->indexBytes($p)) }}</td>
        @can('run')<td class="acts"><form method="post" action="{{ address('index.propose', $cluster->slug) }}">@csrf<input type="hidden"
            name="table" value="{{ $p->table }}"><input type="hidden" name="index" value="{{
            $p->name() }}"><button class="plain">Propose it</button></form></td>@endcan</tr>@endforeach</tbody></x-table>
    <p class="quiet small">Rows now are those the server counted; rows then, and what is saved, are modelled from values counted in a
        sample. The change tries it on a copy in another schema first, with ANALYZE FORMAT=JSON before and after.</p>@endif
    <h2>There for nothing</h2>
    @if($page->needless === [])<x-empty>None.</x-empty>@else
    <x-table name="Needless indexes"><thead><tr>
    <th scope="col">Table</th><th scope="col">Index</th><th scope="col">Why</th>
    <th scope="col" class="n">Space</th>@can('run')<th scope="col"><span class="visually-hidden">Acts</span></th>@endcan</tr></thead>
    <tbody>@foreach($page->needless as $one)<tr data-row><td class="mono">{{ $one['table']->name }}</td><td class="mono">{{
        $one['index']->name }} ({{ implode(', ', $one['index']->columns) }})</td><td>{{ $one['why'] }}</td>
        <td class="n">{{ Quantity::bytes($one['table']->indexBytes($one['index'])) }}</td>
        @can('run')<td class="acts"><form method="post" action="{{ address('index.propose', $cluster->slug) }}">@csrf<input type="hidden"
            name="table" value="{{ $one['table']->name }}"><input type="hidden" name="index" value="{{
            $one['index']->name }}"><button class="plain">Propose to drop</button></form></td>@endcan</tr>@endforeach</tbody>
    </x-table>@endif
    <h2>All indexes</h2>
    <x-table name="All indexes" export="Indexes"><thead><tr>
    <th scope="col">Table</th><th scope="col" class="n">Rows</th><th scope="col">Index</th><th scope="col">Columns</th>
    <th scope="col">Unique</th><th scope="col" class="n">Read by</th></tr></thead>
    <tbody>@forelse($page->tables as $table)@foreach($table->indexes as $index)<tr data-row><td class="mono">{{ $table->name }}</td>
    <td class="n">{{ Quantity::count($table->rows) }}</td><td class="mono">{{ $index->name }}</td><td class="mono">{{
    implode(', ', $index->columns) }}</td><td>{{ $index->unique ? 'yes' : 'no' }}</td>
    <td class="n">{{ $index->uses === null ? 'not counted' : Quantity::count($index->uses) }}</td></tr>@endforeach @empty<tr>
    <td colspan="6">No table can be changed from here.</td></tr>@endforelse</tbody></x-table>
    <p class="quiet small">Read by: rows the server read by the index {{ $page->countedSeconds === null ? 'where it counts that'
        : 'in the '.Quantity::duration($page->countedSeconds * 1e6).' since it began to count' }}; an index nobody reads by is called
        needless after seven days. Tables shown are those of schemas that may be changed from here.</p>
    @if($changes->isNotEmpty())<h2>Changes</h2><ul class="annotated round">@foreach($changes as $change)<li data-row><x-state
        :is="$change->mark()">{{ $change->state->value }}</x-state><div><p><a class="told-link" href="{{ address('change.show',
            $change->id) }}">{{ $change->title }}</a></p></div></li>@endforeach</ul>@endif
    @endif
</div>
</x-layout>
