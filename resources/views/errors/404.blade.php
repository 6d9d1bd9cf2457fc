<x-error code="404" title="There is nothing at this address"><p>It may have been removed, or the address was mistyped.</p>
<p>The statements and clusters that exist are reached from the benches.</p></x-error>
