<!DOCTYPE html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'">
<title>Statement of account of {{ $account->team }}, {{ $account->scope->days->describe() }}</title>
<style>{!! $style !!}</style>
</head>
<body>
<main>
<p class="quiet">Fulcrion · statement of account · {{ $account->team }} · {{ $account->scope->days->describe() }} · made {{
    utc($madeAt * 1_000_000) }}</p>
<h1>{{ $account->sentence() }}</h1>
@if($figure !== '')<figure>{!! $figure !!}<figcaption>{{ $account->figure()?->how }}</figcaption></figure>@endif
@include('cost.account-body', ['linked' => false])
<p class="quiet">Statements are shown without their values. Days are by UTC.</p>
</main>
</body>
</html>
