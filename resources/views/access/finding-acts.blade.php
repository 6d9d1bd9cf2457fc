@if($finding->rule === 'stray-label' || $finding->rule === 'unlabelled-personal')<a class="btn btn-primary"
    href="{{ address('label.index') }}">Fix labels in the draft</a>
@elseif(App\Access\Application\AccessAudit::remedies($finding) !== [])<form method="post" action="{{ address('review.fix') }}">@csrf
    <input type="hidden" name="findings[]" value="{{ $finding->id }}"><button class="btn btn-primary">Fix it in the draft</button></form>
@else<a class="btn btn-primary" href="{{ address('policy.index') }}">Decide in the policy</a>@endif
