<x-error code="413" title="That was too large"><p>The upload is larger than this server accepts.</p>
<p>Nothing was taken. Compress the file with gzip, or use the import command on the server.</p></x-error>
