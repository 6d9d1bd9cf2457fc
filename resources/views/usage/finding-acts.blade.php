<a class="btn btn-primary" href="{{ address('limit.index', App\Usage\Application\JumpFindings::limit($finding)) }}#set">Set a limit</a>
