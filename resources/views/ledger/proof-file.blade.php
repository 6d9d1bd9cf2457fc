<!DOCTYPE html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'"><title>Proof {{ $record->id }}: {{
$change->title }}</title>
<style>
body{background:#FAF7F1;color:#22303C;font:15px/1.5
    Figtree,system-ui,sans-serif;font-feature-settings:'tnum';max-width:1180px;margin:2rem auto;padding:0 1.2rem}
h1{font-size:1.5rem;line-height:1.3;margin:0 0 .5rem}
h2{font-size:1.08rem;margin:1.8rem 0 .5rem}
table{border-collapse:collapse;width:100%;font-size:.86rem}
th,td{text-align:left;padding:.3rem .6rem .3rem 0;border-bottom:1px solid #DDD5C7;vertical-align:top}
th{color:#5A666E;font-weight:600}
.facts{width:auto}
.n{text-align:right;white-space:nowrap;font-family:'JetBrains Mono',ui-monospace,monospace;font-size:.8rem}
.mono{font-family:'JetBrains Mono',ui-monospace,monospace}
.small,.quiet{font-size:.84rem;color:#5A666E}
.scroll{overflow-x:auto}
.off,.bad-text{color:#9E3439}
tr.worse td:first-child{box-shadow:inset 3px 0 0 #9E3439}
tr.sum{font-weight:600}
.nowrap{white-space:nowrap}
.was{color:#5A666E}
svg{width:100%;height:auto}
.state svg{width:12px;height:12px}
.grid{stroke:#DDD5C7}
.tick{fill:#5A666E;font-size:11.5px}
.tick.strong{fill:#22303C;font-weight:600}
.before-bar{fill:none;stroke:#B9691E;stroke-width:1.4}
.after-bar{fill:#1C6E68}
.after-bar.worse{fill:#9E3439}
.sql{background:#fff;border-left:3px solid #1C6E68;padding:.6rem 1rem;white-space:pre-wrap}
</style></head><body>
<p class="quiet">Fulcrion, proof {{ $record->id }} of change {{ $change->id }} on {{ $change->cluster->name }}{{
    $change->finding ? '; finding: '.$change->finding->problem : '' }}</p>
<h1>{{ $record->sentence }}</h1>
@include('ledger.proof-body')
@if($record->shownBy() !== null)@include($record->shownBy()->view)@else
<h2>Time of each statement</h2>
{!! $figure->svg !!}
<p class="small">{{ $figure->how }}</p>
<h2>All figures</h2>
@include('ledger.proof-table')
@include('ledger.proof-unmeasured')
@if($differences !== [])@include('ledger.proof-differences')@endif
@if($live !== [])@include('ledger.live')@endif
@endif
<h2>What was run</h2>
@if($change->kind()->handedOn($change) !== null)<p>{{
    $change->kind()->handedOn($change) }}</p>@else @foreach($change->kind()->steps($change) as $sql)<pre class="sql mono">{{
    $sql }}</pre>@endforeach @endif
<p class="quiet">Statements are shown without their values.</p>
</body></html>
