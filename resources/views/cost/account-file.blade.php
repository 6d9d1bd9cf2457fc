@php($of = "{$account->team}, {$account->scope->days->describe()}")
<x-report :title="'Statement of account of '.$of" :style="$style" :about="'· statement of account · '.$of" :madeAt="$madeAt">
<h1>{{ $account->sentence() }}</h1>
@if($figure !== null)<figure>{!! $figure->svg !!}<figcaption>{{ $figure->how }}</figcaption></figure>@endif
@include('cost.account-body', ['linked' => false])
<p class="quiet">Statements are shown without their values. Days are by the clocks of {{ $zone }}.</p>
</x-report>
