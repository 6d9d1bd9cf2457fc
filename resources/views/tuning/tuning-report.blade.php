@php use Fulcrion\Core\Text\Quantity; $last = $steps[count($steps) - 1]; @endphp
<!DOCTYPE html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'">
<title>Tuning run {{ $run->id }}</title>
<style>{!! $style !!}</style>
</head>
<body>
<main>
<p class="quiet">Fulcrion report · cluster {{ $run->cluster->name }} · tuning run {{ $run->id }} by {{ $run->asked_by }} · made {{
    utc($madeAt * 1_000_000) }}</p>
<h1>{{ ucfirst($run->title) }} took {{ Quantity::duration($steps[0]['weekUs']) }} a week and would take {{
    Quantity::duration($last['weekUs']) }} (modelled)</h1>
<p>Every step was done on copies of the tables and the statements run again; it was kept where it saved at least 1% and every answer that
    could be compared stayed the same.</p>
{!! $figure->svg !!}
<p class="quiet">{{ $figure->how }}</p>
@php $choosing = false; @endphp
@include('tuning.tuning-body')
@include('tuning.tuning-lines')
</main>
</body>
</html>
