@props(['title', 'style', 'about', 'madeAt'])
<!DOCTYPE html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'">
<title>{{ $title }}</title>
<style>{!! $style !!}</style>
</head>
<body>
<main>
<p class="quiet">Fulcrion {{ $about }} · made {{ utc($madeAt * 1_000_000) }}</p>
{{ $slot }}
</main>
</body>
</html>
