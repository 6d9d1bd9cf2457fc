@if($finding->rule === 'stray-label' || $finding->rule === 'unlabelled-personal')<a class="btn btn-primary"
    href="{{ address('label.index') }}">Mend labels in the draft</a>
@elseif(in_array('would mend it', array_column($finding->evidence, 0), true))<form method="post" action="{{ address('review.mend') }}">@csrf
    <input type="hidden" name="findings[]" value="{{ $finding->id }}"><button class="btn btn-primary">Mend it in the draft</button></form>
@else<a class="btn btn-primary" href="{{ address('policy.index') }}">Decide in the policy</a>@endif
