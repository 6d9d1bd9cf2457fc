@php($limit = App\Cost\Application\BudgetFindings::limit($finding))
@if($limit !== null)<a class="btn btn-primary" href="{{ address('limit.index', $limit) }}#set">Set a limit</a>@endif
<a class="btn btn-line" href="{{ address('budget.index') }}">Set another budget</a>
