@php $grave = array_filter($problems, fn ($p) => $p->grave); @endphp
<x-layout title="Draft" bench="guard" sub="draft">
<div class="reading">
    <h1>{{ $changes === [] ? 'The draft is empty: what is in force is version '.$number : count($changes).' '.Str::plural('edit',
        count($changes)).' '.(count($changes) === 1 ? 'waits' : 'wait').' to take effect'.($grave === [] ? ''
        : ', and '.count($grave).' must be fixed first') }}</h1>
    @if($changes === [])<x-empty>Edit an item under <a href="{{ address('policy.index') }}">Policy</a>, fix <a
        href="{{ address('label.index') }}">labels</a>, or step from a refusal in <a
        href="{{ address('try.show') }}">Try as</a>. All stewards see the same draft.</x-empty>@else
    @foreach($problems as $problem)@if($problem->grave)<div class="notice bad" role="alert"><a href="{{ address('policy.item',
        $problem->kind->value) }}?name={{ urlencode($problem->name) }}">{{ $problem }}</a></div>@endif @endforeach
    @foreach($warnings as $warning)<div class="notice bad" role="note">{{ $warning }}</div>@endforeach
    <h2>Who gains, who loses</h2>
    <div hx-get="{{ address('draft.radius') }}" hx-trigger="load" hx-swap="outerHTML">
    <p class="quiet" role="status">Comparing what everybody sees …</p><noscript><a href="{{
        address('draft.radius') }}">Show</a></noscript></div>
    <h2>The last four weeks, again</h2>
    <div hx-get="{{ address('draft.replay') }}" hx-trigger="load" hx-swap="outerHTML">
    <p class="quiet" role="status">Asking both policies about every statement that was run …</p><noscript><a
    href="{{ address('draft.replay') }}">Show</a></noscript></div>
    <h2>Publish</h2>
    <form method="post" action="{{ address('draft.publish') }}">@csrf<input type="hidden" name="digest" value="{{ $digest }}">
        <label class="small quiet" for="publish-comment">Why; it stands beside the version for ever</label><textarea
            class="form-control wide" id="publish-comment" name="comment" rows="2">{{ old('comment') }}</textarea>@error('comment')<p
            class="bad-text" role="alert">{{ $message }}</p>@enderror
        <div class="acts"><button class="btn btn-primary" @disabled($grave !== [])>Publish as version {{
            $number + 1 }}</button><a class="btn btn-line" href="{{ address('try.show') }}?policy=draft">Try it first</a><button
                class="btn btn-line"
            form="discard-all">Discard all edits</button></div>
    </form>
    <form id="discard-all" method="post" action="{{ address('draft.discard') }}" data-confirm="Discard {{ count($changes) }} {{
        Str::plural('edit',
        count($changes)) }}?">@csrf</form>
    <h2>Edits</h2>
    @include('access.change-list')
    @php $mild = array_filter($problems, fn ($p) => ! $p->grave); @endphp
    @if($mild !== [])<details class="more"><summary>{{ count($mild) }} things to look at, which do not keep it back</summary>
    <ul class="small">@foreach(array_slice($mild, 0, 60) as $problem)<li>{{ $problem }}</li>@endforeach</ul></details>@endif
    @endif
</div>
</x-layout>
