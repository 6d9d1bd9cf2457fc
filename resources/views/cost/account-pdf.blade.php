<!DOCTYPE html>
<html lang="en">
<head>
<meta charset="utf-8">
<title>Statement of account of {{ $account->team }}, {{ $account->scope->days->describe() }}</title>
<style>
@page { margin: 16mm 14mm; }
body { font-family: 'DejaVu Sans', sans-serif; font-size: 8.5pt; color: #22303C; line-height: 1.35; }
h1 { font-size: 14pt; line-height: 1.25; margin: 0 0 4mm; }
h2 { font-size: 10.5pt; margin: 6mm 0 1.5mm; page-break-after: avoid; }
table { border-collapse: collapse; width: 100%; font-size: 7.6pt; }
th, td { text-align: left; padding: 1.2mm 2mm 1.2mm 0; border-bottom: 0.2mm solid #DDD5C7; vertical-align: top; }
th { color: #5A666E; font-weight: normal; border-bottom-color: #22303C; }
.n { text-align: right; white-space: nowrap; }
tr.sum td, tr.sum th { font-weight: bold; color: #22303C; }
.statement { font-family: 'DejaVu Sans Mono', monospace; font-size: 6.6pt; }
.quiet { color: #5A666E; } .small { font-size: 7pt; }
img { width: 100%; }
</style>
</head>
<body>
<p class="quiet small">Fulcrion · statement of account · {{ $account->team }} · {{ $account->scope->days->describe() }} · made {{
    utc($madeAt * 1_000_000) }}</p>
<h1>{{ $account->sentence() }}</h1>
@if($figure !== null)<img src="{{ $image }}" alt=""><p class="quiet small">{{ $figure->how }}</p>@endif
@include('cost.account-body', ['linked' => false])
<p class="quiet small">Statements are shown without their values. Days are by the clocks of {{ $zone }}.</p>
</body>
</html>
