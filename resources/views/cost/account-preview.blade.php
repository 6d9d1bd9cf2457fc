<x-layout title="Preview of a statement of account" bench="meter" sub="accounts">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('account.index') }}">Statements of account</a> / {{ $schedule->team }} to {{
        $schedule->recipient }}</p>
    <h1>{{ $account->sentence() }}</h1>
    @if($schedule->confirmed_us === null)
    <div class="notice" role="note">This is what {{ $schedule->recipient }} would get, of {{ $month->describe() }}. Nothing goes out before
        you say so.</div>
    <div class="acts"><form method="post" action="{{ address('account.confirm', $schedule->id) }}">@csrf<button class="btn btn-primary">It
        may go out, on day {{ $schedule->day }} of each month</button></form>
        <form method="post" action="{{ address('account.remove', $schedule->id) }}">@csrf<button class="btn btn-line">Rather not</button>
        </form></div>
    @else<p class="quiet">{{ $schedule->confirmed_by }} let it go out on {{
        moment($schedule->confirmed_us, App\Platform\Support\MomentStyle::Day) }}.</p>@endif
    <div class="tools">@foreach(['pdf', 'html'] as $format)<a href="{{ address('team.account', $format) }}?{{ http_build_query(['team'
        => $schedule->team, 'days' => gmdate('Y-m', $month->from)]) }}">As {{ strtoupper($format) }}</a> @endforeach</div>
    @if($account->hasUse())<x-figure :figure="$account->figure()" name="Day by day" />@endif
    @include('cost.account-body', ['linked' => false])
</div>
</x-layout>
