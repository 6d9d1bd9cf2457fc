@php use Fulcrion\Core\Access\Policy\Subject; @endphp
<x-layout title="Requests" bench="guard" sub="requests">
<div class="reading">
    <h1>{{ count($deciding) > 0 ? count($deciding).' '.Str::plural('request', count($deciding)).' '.(count($deciding) === 1 ? 'waits'
        : 'wait').' for your answer' : 'No request waits for your answer' }}</h1>
    @if($errors->any())<div class="notice bad" role="alert">{{ $errors->first() }}</div>@endif
    @foreach($requests as $ask)
    <section class="advice" data-row><h2 class="rule-title"><span class="mono">{{ $ask->object }}</span> <x-state :is="['open'
        => 'watch', 'approved' => 'calm', 'declined' => 'act'][$ask->state]">{{ $ask->state }}</x-state></h2>
        <p>{{ $ask->asked_by }}, {{ moment($ask->asked_us) }}: {{ $ask->reason }}@if($ask->until) <span class="quiet">Until {{
            $ask->until }}.</span>@endif</p>
        @if($ask->decided_by)<p class="quiet">{{ $ask->decided_by }} {{ $ask->state }} it{{
            $ask->answer ? ": {$ask->answer}" : '.' }}</p>@endif
        @if(in_array($ask->id, $deciding, true))<form class="filters" method="post" action="{{ address('request.decide',
            $ask->id) }}">@csrf<div><label for="words-{{ $ask->id }}">Words</label><input class="form-control wide" id="words-{{
            $ask->id }}" name="words"></div><button class="btn btn-primary" name="answer" value="approved">Approve</button><button
            class="btn btn-line" name="answer" value="declined">Decline</button>@can('guard')<a href="{{ address('access.explain') }}?who={{
            urlencode($ask->subject) }}">What they see now</a>@endcan</form>@endif
    </section>
    @endforeach
    <h2>Ask for access</h2>
    <form class="form-grid" method="post" action="{{ address('request.store') }}">@csrf
        <label for="ask-object">Table or view</label><input class="form-control" id="ask-object" name="object" value="{{
            old('object', $object) }}" list="ask-tables"><datalist id="ask-tables">@foreach($tables as $table)<option value="{{
            $table }}">@endforeach</datalist>
        <label for="ask-reason">What you need it for</label><textarea class="form-control" id="ask-reason" name="reason" rows="2">{{
            old('reason') }}</textarea>
        <label for="ask-until">Until</label><input class="form-control" id="ask-until" type="date" name="until" value="{{ old('until') }}">
        <span></span><div><button class="btn btn-primary">Ask</button></div>
    </form>
</div>
</x-layout>
