@php use App\Platform\Support\MomentStyle; @endphp
<x-layout title="Desired settings" bench="tend" sub="settings">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('setting.index') }}?{{ http_build_query(['cluster' => $cluster->slug]) }}">Settings of {{
        $cluster->name }}</a></p>
    <h1>How hosts of {{ $cluster->name }} should be set</h1>
    <p class="quiet">{{ $saved === null ? 'This is the profile that ships with Fulcrion.' : 'Saved by '.$saved['by'].', '
        .moment($saved['us'], MomentStyle::Minute) .'.' }} The first entry whose name fits counts; a * stands for any part of a name. Say
        what is wanted with <code>is</code>, <code>has</code>, <code>atLeast</code> or <code>atMost</code>, and why.</p>
    @foreach($errors->get('text') as $message)<div class="notice bad" role="alert">{{ $message }}</div>@endforeach
    @foreach($errors->get('file') as $message)<div class="notice bad" role="alert">{{ $message }}</div>@endforeach
    @can('setting')
    <form method="post" action="{{ address('setting.save', $cluster->slug) }}" enctype="multipart/form-data">@csrf
        <label for="profile-text">Profile, YAML</label>
        <textarea class="form-control mono" id="profile-text" name="text" rows="24" spellcheck="false" wrap="off">{{ $text }}</textarea>
        <label for="profile-file">or a file, which counts instead</label>
        <input class="form-control" type="file" id="profile-file" name="file" accept=".yaml,.yml,text/yaml">
        <div class="acts"><button class="btn btn-primary">Save, and hold all hosts against it</button>
        <a class="btn btn-line" href="{{ address('setting.file', $cluster->slug) }}">Save as a file</a></div>
    </form>
    @if($saved !== null)<form method="post" action="{{ address('setting.forget', $cluster->slug) }}" data-confirm="The profile of {{
        $cluster->name }} goes, and the one that ships with Fulcrion holds.">@csrf<button class="plain">Go back to the profile that ships
        with Fulcrion</button></form>@endif
    @else
    <pre class="sql" tabindex="0">{{ $text }}</pre>
    <p><a href="{{ address('setting.file', $cluster->slug) }}">Save as a file</a></p>
    @endcan
</div>
</x-layout>
