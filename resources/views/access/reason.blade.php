@php $decides = static function (array $one) use (&$decides): bool { return $one['weight'] === 'decides' || array_filter($one['inner'],
    $decides) !== []; }; @endphp
<li @class(['reason', $reason['weight']])>@if($reason['inner'] === [])<span>{{ $reason['text'] }}</span>@else<details
    @if(array_filter($reason['inner'], $decides) !== []) open @endif><summary>{{ $reason['text'] }}</summary>
    <ul class="reasons">@foreach($reason['inner'] as $inner)@include('access.reason', ['reason' => $inner])@endforeach</ul>
    </details>@endif</li>
