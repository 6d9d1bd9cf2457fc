@php use App\Platform\Support\MomentStyle; use Fulcrion\Core\Text\Quantity; @endphp
<x-layout title="Where the time goes" bench="tend" sub="profiles">
<div class="reading">
    <h1>{{ $profiles->isEmpty() ? 'No profile is kept yet' : ($profiles->count() === 1 ? 'One profile is kept' : $profiles->count()
        .' profiles are kept') }}</h1>
    @if($profiles->isEmpty())<x-empty>A profile says in which functions, stages or steps time was spent. Send one as folded stacks or as
        perf script prints it, or take one here.</x-empty>@else
    <x-table name="Profiles"><thead><tr><th scope="col">Profile</th><th scope="col">Of</th><th scope="col" class="n">Holds</th>
        <th scope="col">Kept</th><th scope="col">State</th></tr></thead><tbody>@foreach($profiles as $one)<tr data-row>
        <td><a href="{{ address('profile.show', $one->id) }}">{{ $one->name }}</a></td>
        <td>{{ match ($one->kind) { 'file' => 'a file', 'server' => 'sessions of '.$one->cluster?->name, default => 'a statement on '
        .$one->cluster?->name } }}@if($one->only_for !== null) <span class="quiet small">only for you</span>@endif</td>
        <td class="n">{{ $one->unit === 'ms' ? Quantity::duration($one->total * 1000) : Quantity::count($one->total).' samples' }}</td>
        <td class="nowrap">{{ moment($one->asked_us, MomentStyle::Minute) }}, {{ $one->asked_by }}</td>
        <td>{{ $one->state === 'done' ? 'kept' : ($one->isOver() && $one->state === 'running' ? 'broken off' : $one->state) }}</td></tr>
        @endforeach</tbody></x-table>@endif
    @can('profile')
    <h2>Send one</h2>
    <form class="form-grid" method="post" action="{{ address('profile.keep') }}" enctype="multipart/form-data">@csrf
        <label for="profile-name">Name</label><input class="form-control" id="profile-name" name="name" maxlength="120"
        value="{{ old('name') }}">@error('name')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="profile-file">File</label><input class="form-control" type="file" id="profile-file" name="file">
        @error('file')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <span></span><div><button class="btn btn-primary">Keep it</button> <span class="quiet small">Folded stacks (main;read;parse 42, a
        line a stack), or the output of perf script; at most 300 MB.</span></div></form>
    @if($servers->isNotEmpty())<h2>Take one of a server</h2>
    <form class="form-grid" method="post" action="{{ address('profile.take') }}">@csrf
        <label for="server-name">Name</label><input class="form-control" id="server-name" name="name" maxlength="120"
        value="{{ old('name', 'sessions') }}">
        <label for="server-cluster">Server</label><select class="form-select" id="server-cluster" name="cluster">
        @foreach($servers as $one)<option value="{{ $one->slug }}">{{ $one->name }}</option>@endforeach</select>
        <label for="server-seconds">For seconds</label><input class="form-control" id="server-seconds" name="seconds" inputmode="numeric"
        value="{{ old('seconds', 5) }}">@error('seconds')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <span></span><div><button class="btn btn-line">Take it</button> <span class="quiet small">Stages and waits of its sessions, looked
        at fifty times a second.</span></div></form>@endif
    @if($engines->isNotEmpty())<h2>Take one of a statement</h2>
    <form class="form-grid" method="post" action="{{ address('profile.take') }}">@csrf
        <label for="engine-name">Name</label><input class="form-control" id="engine-name" name="name" maxlength="120"
        value="{{ old('name', 'a statement') }}">
        <label for="engine-cluster">Cluster</label><select class="form-select" id="engine-cluster" name="cluster">
        @foreach($engines as $one)<option value="{{ $one->slug }}">{{ $one->name }}</option>@endforeach</select>
        <label for="engine-sql">Statement</label><textarea class="form-control mono" id="engine-sql" name="sql" rows="4"
        spellcheck="false">{{ old('sql') }}</textarea>@error('sql')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <span></span><div><button class="btn btn-line">Run it and take it</button> <span class="quiet small">It runs with your rights; what
        its steps took is modelled, and only you see it.</span></div></form>@endif
    @endcan
</div>
</x-layout>
