<div class="notice bad" role="alert">
<p><strong>The run broke off.</strong> Whatever it had changed by then stands under "Before" and in the ledger. Send it again; if it
breaks off again, an owner finds the reason in the log.</p></div>
