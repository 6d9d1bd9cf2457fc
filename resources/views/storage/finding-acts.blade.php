@if($finding->remedy !== '')<form method="post" action="{{ address('layout.propose-finding', $finding->id) }}">@csrf<button
    class="btn btn-primary">Propose the change that fixes it</button></form>
@else<p class="tight">There is no change that could be made for you: a person has to decide.</p>@endif
