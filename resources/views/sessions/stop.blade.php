<form method="post" action="{{ address('session.stop', $cluster->slug) }}" data-confirm="{{ $act === 'cancel' ? 'Cancel it?'
    : 'End it and roll back its work?' }}">@csrf<input type="hidden" name="session" value="{{ $id }}"><input type="hidden" name="act"
    value="{{ $act }}"><input type="hidden" name="statement" value="{{ $statement }}"><button class="plain">{{
    $act === 'cancel' ? 'Cancel the statement' : 'End the session' }}<span class="visually-hidden"> {{ $id }}</span></button></form>
