<div id="progress" @unless($import->isOver() || $import->isBrokenOff()) hx-get="/tune/imports/{{ $import->id }}" hx-trigger="every 1s"
    hx-swap="outerHTML" @endunless>@include('telemetry.import-body')</div>
