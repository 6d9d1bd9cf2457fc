<x-error code="503" title="The readings cannot be reached"><p>{{ $said }}</p>
<p>All else goes on. Somebody who connects clusters can look at the page of setting up monitoring of this cluster.</p></x-error>
