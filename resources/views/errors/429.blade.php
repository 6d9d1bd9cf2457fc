<x-error code="429" title="Too many tries"><p>This address may be used only so often a minute.</p>
<p>Nothing was changed. Wait a minute, then try again.</p></x-error>
