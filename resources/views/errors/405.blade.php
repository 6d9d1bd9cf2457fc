<x-error code="405" title="This address is not opened like that"><p>It takes part in a form.</p>
<p>Nothing was changed. Go back and use the form.</p></x-error>
