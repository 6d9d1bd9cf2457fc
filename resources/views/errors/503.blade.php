<x-error code="503" title="Closed for a moment"><p>The application is being changed.</p>
<p>Nothing is lost. Reload in a minute.</p></x-error>
