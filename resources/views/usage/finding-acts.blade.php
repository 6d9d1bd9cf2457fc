@php($limit = App\Usage\Application\JumpFindings::limit($finding))
@if($limit === null)<a class="btn btn-primary" href="{{ address('statement.show', $finding->subject()->statement) }}">Open the statement</a>
@else<a class="btn btn-primary" href="{{ address('limit.index', $limit) }}#set">Set a limit</a>@endif
