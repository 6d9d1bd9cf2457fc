@can('setting')<form method="post" action="{{ address('setting.propose', $finding->cluster->slug) }}">@csrf<input type="hidden" name="host"
    value="{{ $finding->object }}"><button class="btn btn-primary">Propose the change that sets them as desired</button></form>@endcan
