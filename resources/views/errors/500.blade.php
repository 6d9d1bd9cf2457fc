<x-error code="500" title="Something broke on our side"><p>The error is written to the log of the application.</p>
<p>What was saved before stays saved. Try again; if it stays broken, hand the time of this page to whoever runs the
application.</p></x-error>
