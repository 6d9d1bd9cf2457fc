<x-layout title="House rules" bench="tune" sub="layout">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('layout.index') }}?cluster={{ $cluster->slug }}">Layout</a> / {{ $cluster->name }}</p>
    <h1>{{ count($rules) - count($off) }} house rules are held against every table of {{ $cluster->name }} each hour; {{
        count($counts) }} of them are broken</h1>
    <x-filters :to="address('layout.rules')"><div><label for="rules-cluster">Cluster</label><select
        class="form-select" id="rules-cluster" name="cluster" data-submits>@foreach($clusters as $each)<option value="{{
        $each->slug }}" @selected($each->id === $cluster->id)>{{ $each->name }}</option>@endforeach</select></div></x-filters>
    @if($errors->any())<div class="notice bad" role="alert">{{ $errors->first() }} Nothing was changed.</div>@endif
    @foreach($rules as $id => $rule)
    <section class="advice" id="{{ $id }}">
        <h2 class="rule-title"><a href="{{ address('layout.rule', $id) }}">{{ $rule->title() }}</a> @if(in_array($id, $off,
            true))<x-state is="no data">off</x-state>@elseif(isset($counts[$id]))<x-state is="watch">{{ $counts[$id] }} {{
            Str::plural('finding', $counts[$id]) }}</x-state>@else<x-state is="calm" />@endif</h2>
        <p>{{ $rule->reason() }}</p>
        <form class="filters" method="post" action="{{ address('layout.save-rule', [$cluster->slug, $id]) }}">@csrf
            @foreach($rule->thresholds() as $name => [$default, $meaning])<div><label for="{{ $id }}-{{ $name }}">{{
                $meaning }}</label><input class="form-control" id="{{ $id }}-{{ $name }}" name="thresholds[{{ $name }}]" value="{{
                $thresholds[$id][$name] ?? $default }}" inputmode="decimal" @cannot('run') readonly @endcannot></div>@endforeach
            @can('run')<label class="check"><input class="form-check-input" type="checkbox" name="off" value="1" @checked(in_array($id,
                $off, true))> do not check</label><button class="btn btn-line">Keep</button>@endcan
        </form>
    </section>
    @endforeach
</div>
</x-layout>
