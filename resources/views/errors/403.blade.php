<x-error code="403" title="This is not yours to do"><p>{{ $exception->getMessage() ?: "Your role does not allow it." }}</p>
<p>Nothing was changed. Ask an owner for the role, or go back.</p></x-error>
