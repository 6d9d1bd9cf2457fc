<div id="progress" @unless($import->isOver()) hx-get="{{ address('import.show',
    $import->id) }}" hx-trigger="every 1s"
    hx-swap="outerHTML" @endunless>@include('telemetry.import-body')</div>
