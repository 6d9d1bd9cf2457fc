<x-layout title="Review" bench="guard" sub="review">
<div class="reading">
    <h1>{{ $count === 0 ? 'Nothing in the policy needs attention' : $count.' '.Str::plural('finding',
        $count).' in the policy '.($count === 1 ? 'asks' : 'ask').' for a decision' }}</h1>
    <div class="tools"><form method="post" action="{{ address('review.run') }}">@csrf<button
        class="plain">Look it through now</button></form><a
        href="{{ address('campaign.index') }}">Go through grants by a day</a><a href="{{ address('finding.index') }}">All findings</a></div>
    @if($errors->any())<div class="notice bad" role="alert">{{ $errors->first() }}</div>@endif
    @foreach($checks as $check => [$title, $why])
    @continue($only !== '' && $only !== $check)
    @php $found = $findings[$check] ?? collect(); @endphp
    <section class="advice" id="{{ $check }}">
        <h2 class="rule-title">{{ $title }} @if($found->isEmpty())<x-state is="calm" />@else<x-state :is="$found->contains('severity',
            App\Ledger\Findings\Severity::Act) ? 'act' : 'watch'">{{ $found->count() }}</x-state>@endif</h2>
        <p class="quiet small">{{ $why }}</p>
        @if($found->isNotEmpty())
        <form method="post" action="{{ address('review.fix') }}" data-all>@csrf
            <x-table :name="$title" :export="false"><thead><tr>
            <th scope="col"><label class="check"><input class="form-check-input" type="checkbox" data-ticks-all> all</label></th>
            <th scope="col">Finding</th><th scope="col">What would fix it</th></tr></thead><tbody>
            @foreach($found as $finding)
            @php $fixes = App\Access\Application\AccessAudit::remedies($finding); @endphp
            <tr data-row><td><input class="form-check-input" type="checkbox" name="findings[]" value="{{
                $finding->id }}" aria-label="{{ $finding->object }}" @disabled($fixes === [])></td>
                <td><a href="{{ address('finding.show', $finding->id) }}">{{ $finding->problem }}</a></td><td class="small">{{
                $fixes === [] ? ($check === 'stray-label' ? ''
                : 'a person has to decide') : implode('; ', $fixes) }}@if($check === 'stray-label')<a
                href="{{ address('label.index') }}">choose a value</a>@endif</td></tr>@endforeach
            </tbody></x-table>
            @if($found->contains(fn ($f) => App\Access\Application\AccessAudit::remedies($f) !== []))<div class="acts"><button
                class="btn btn-primary">Fix the chosen ones in the draft</button></div>@endif
        </form>@endif
    </section>
    @endforeach
    @if($only !== '')<p><a href="{{ address('review.index') }}">All checks</a></p>@endif
</div>
</x-layout>
