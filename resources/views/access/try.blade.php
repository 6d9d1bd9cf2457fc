@php
    use Fulcrion\Core\Access\Policy\Subject; use App\Platform\Support\Sql;
    $refused = count(array_filter($tries, fn ($t) => ! $t['decision']->isAllowed()));
    $back = address('try.show').'?'.http_build_query(['cluster' => $cluster?->slug, 'policy' => 'draft', 'who' => $who, 'schema' => $schema,
        'sql' => $sql]);
    $heading = match (true) {
        $tries === [] => 'See a statement through the eyes of somebody else',
        count($tries) === 1 => Subject::show($tries[0]['subject']).($tries[0]['decision']->error !== null
            ? ' asks what cannot be decided' : ($refused ? ' is refused' : ' gets '.($tries[0]['result'] === null ? 'through'
            : count($tries[0]['result']->rows).' '.Str::plural('row',
            count($tries[0]['result']->rows))).', '.$tries[0]['decision']->outcome())),
        default => ($refused === 0 ? 'None' : $refused).' of '.count($tries).' are refused',
    };
@endphp
<x-layout title="Try as" bench="guard" sub="try">
<div class="reading wide-reading">
    <h1>{{ $heading }}</h1>
    @error('value')<div class="notice bad" role="alert">{{ $message }}</div>@enderror
    <form method="get" action="{{ address('try.show') }}">
        <div class="topline">
            <div><label for="try-who">As whom; with commas, up to four side by side</label><input class="form-control" id="try-who"
                data-key="&#47;" name="who" value="{{
                    $who }}" list="subjects" placeholder="ebba.lund, role:packhouse"></div>
            <div><label for="try-cluster">Cluster</label><select class="form-select" id="try-cluster"
                name="cluster">@foreach($clusters as $each)<option value="{{ $each->slug }}" @selected($each->id === $cluster?->id)>{{
                $each->name }}</option>@endforeach</select></div>
            <div><label for="try-policy">Policy</label><select class="form-select" id="try-policy" name="policy">
            <option value="draft">the draft ({{ $edits }} {{ Str::plural('edit', $edits) }})</option>
            <option value="published" @selected($which === 'published')>in force (version {{ $number }})</option></select></div>
        </div>
        @include('access.subject-list')
        <label class="small quiet" for="try-sql">Statement</label>
        <x-editor id="try-sql" :value="$sql" />
        <div class="tools"><button class="btn btn-primary">Try</button><span
            class="quiet small">A query is run and its first rows are shown; a change is decided on and never made. Each try is
            recorded.</span></div>
    </form>
    @if($tries === [] && $sql !== '' && $who === '')<div class="notice bad" role="alert">Say as whom.</div>@endif
    @if($ran !== [])<details class="more" @if($tries === []) open @endif><summary>What they ran most, in four weeks</summary>
    <ul class="choose">@foreach($ran as $one)<li data-row><a class="mono small" href="{{ address('try.show') }}?{{
    http_build_query(['cluster' => $cluster?->slug, 'policy' => $which, 'who' => $who, 'schema' => $one->schema,
    'sql' => $one->sql]) }}">{{ Sql::line($one->sql, 120) }}</a> <span class="quiet small nowrap">{{
    $one->executions }} times</span></li>@endforeach</ul></details>@endif
    <div @class(['tries', 'several' => count($tries) > 1])>
    @foreach($tries as $i => $try)@php $decision = $try['decision']; @endphp
    <section class="outcome" aria-label="{{ Subject::show($try['subject']) }}">
        <h2>{{ Subject::show($try['subject']) }} <x-state :is="$decision->isAllowed() ? ($decision->outcome() === 'allowed' ? 'calm'
            : 'watch') : 'act'">{{ $decision->outcome() }}</x-state></h2>
        @if($decision->error !== null)<div class="notice bad" role="alert">{{ $decision->error }}</div>
        @elseif($decision->refusals !== [])
            <ul class="refusals">@foreach($decision->refusals as $refusal)<li>{{ $refusal->message }}</li>@endforeach</ul>
            <h3>What would allow it</h3>
            @if($try['remedies'] === [])<p class="quiet">Nothing that could be added would allow this: a rule or a kind of statement
                stands against it, not something that is missing.</p>@endif
            @foreach($try['remedies'] as $remedy)
            <form class="remedy" method="post" action="{{ address('try.add') }}">@csrf<input type="hidden" name="back" value="{{ $back }}">
                <h4>{{ $remedy->title }}</h4>
                <ul>@foreach($remedy->additions as $addition)<li>{{ $addition->title }}<input type="hidden" name="items[]" value="{{
                    json_encode(['kind' => $addition->item->kind->value, 'name' => $addition->item->name,
                    'fields' => $addition->item->fields]) }}"></li>@endforeach</ul>
                @php $people = count(array_unique(array_merge([], ...array_map(fn ($s) => $s->people, $remedy->opens)))); @endphp
                <p class="small">Opens for {{ $people }} {{ $people === 1 ? 'person' : 'people' }}: @foreach(array_slice($remedy->opens,
                    0, 4) as $shift){{ $shift->places() }} ({{ $shift->before ?: 'nothing' }} → {{
                    $shift->after ?: 'nothing' }})@if(! $loop->last); @endif @endforeach @if(count($remedy->opens) > 4) and {{
                    count($remedy->opens) - 4 }} more @endif @if($remedy->opens === [])nothing else @endif.@if($remedy->left !==
                    '') The answer would still be {{ $remedy->left }}.@endif</p>
                <button class="btn {{ $loop->first ? 'btn-primary' : 'btn-line' }}">Add to the draft</button>
            </form>
            @endforeach
        @else
            @foreach($decision->notes as $note)<p class="small">{{ $note }}</p>@endforeach
            @if($try['error'] !== null)<div class="notice bad" role="alert">{{ $try['error'] }}</div>@endif
            @if($try['result'] !== null)
            <x-table :name="'Result for '.Subject::show($try['subject'])" :export="false" fit="result">
            <thead><tr>@foreach($try['result']->columns as $column)<th scope="col">{{ $column->name }}</th>@endforeach</tr></thead>
            <tbody>@foreach(array_slice($try['result']->rows, 0, 25) as $row)<tr>@foreach($row as $c => $value)<td class="mono">{{
            $value === null ? 'NULL' : $try['result']->columns[$c]->type->show($value) }}</td>@endforeach</tr>@endforeach</tbody></x-table>
            <p class="quiet small">{{ count($try['result']->rows) }} {{ Str::plural('row', count($try['result']->rows)) }}{{
                count($try['result']->rows) > 25 ? ', the first 25 shown' : '' }}{{ $try['result']->cut ? ', and there are more'
                : '' }}.</p>
            @endif
            <details class="more" @if($decision->rewritten !== $decision->sql) open @endif>
            <summary>{{ $decision->rewritten === $decision->sql ? 'It is run as it is written' : 'What is run instead' }}</summary><pre
            class="sql" tabindex="0">{{ Sql::pretty((string) $decision->rewritten, $cluster->dialect) }}</pre></details>
        @endif
        @if($try['reasons'] !== [])<h3>Why</h3><ul class="reasons top">@foreach($try['reasons'] as $reason)@include('access.reason',
            ['reason' => $reason->toArray()])@endforeach</ul>@endif
    </section>
    @endforeach
    </div>
    @if($tries !== [] && $edits > 0 && $which === 'draft')<div class="tools"><a
        href="{{ address('draft.show') }}">Look at the draft, and publish it</a></div>@endif
</div>
</x-layout>
