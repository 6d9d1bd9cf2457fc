<x-error code="419" title="This page was open too long"><p>For safety a form is valid only as long as your session.</p>
<p>Nothing was changed. Reload the page and send it again.</p></x-error>
