@php use Fulcrion\Core\Access\Policy\Kind; $edits = $published->changesTo($document); $grave = array_filter($problems,
    fn ($p) => $p->grave); @endphp
<x-layout title="Policy" bench="guard" sub="policy">
<div class="reading">
    <h1>{{ $document->size() }} items make the policy{{ $edits === [] ? ', all of them in force'
        : ', '.count($edits).' of them edited in the draft' }}{{
        $grave === [] ? '' : '; '.count($grave).' cannot take effect as they are' }}</h1>
    <x-table name="Kinds" :export="false"><thead><tr><th scope="col">Kind</th>
    <th scope="col" class="n">Items</th><th scope="col" class="n">Edited</th><th scope="col">What they are</th></tr></thead><tbody>
    @foreach(Kind::cases() as $kind)<tr data-row><td><a href="{{ address('policy.kind', $kind->value) }}">{{
        ucfirst($kind->value) }}</a></td>
    <td class="n">{{ count($document->all($kind)) }}</td><td class="n">{{ count(array_filter($edits, fn ($e) => $e->kind === $kind))
    ?: '' }}</td><td class="quiet">{{ $kind->describe() }}</td></tr>@endforeach
    </tbody></x-table>
    @error('value')<div class="notice bad" role="alert">{{ $message }}</div>@enderror
    <h2>As a file</h2>
    <div class="tools"><a href="{{ address('policy.export', 'yaml') }}" download>In force, YAML</a><a href="{{ address('policy.export',
        'json') }}"
        download>JSON</a>@can('guard')<a href="{{ address('policy.export', 'yaml') }}?of=draft" download>The draft, YAML</a>@endcan<a
        href="{{ address('policy.export', 'schema') }}" download>JSON Schema</a>@can('guard')<a
        href="{{ address('provisioning.index') }}">On live servers</a>@endcan</div>
    @can('guard')<form class="filters" method="post" action="{{ address('policy.import') }}" enctype="multipart/form-data">@csrf<div><label
        for="policy-file">A policy as YAML or JSON, into the draft</label><input class="form-control" id="policy-file" type="file"
        name="file" accept=".yaml,.yml,.json"></div><button class="btn btn-line">Read it</button></form>@error('file')<div
        class="notice bad" role="alert">{{ $message }}</div>@enderror @endcan
    @if($problems !== [])<h2>What does not fit</h2><ul class="annotated">@foreach(array_slice($problems, 0, 60) as $problem)<li><x-state
        :is="$problem->grave ? 'act' : 'watch'">{{ $problem->grave ? 'must be fixed' : 'look at it' }}</x-state><p><a
        href="{{ address('policy.item', $problem->kind->value) }}?name={{ urlencode($problem->name) }}">{{ $problem }}</a></p>
        </li>@endforeach</ul>@endif
</div>
</x-layout>
