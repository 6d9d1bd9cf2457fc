@props(['code', 'title'])
<!DOCTYPE html>
<html lang="en" data-theme="day">
<head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>{{ $title }} · Fulcrion</title>
<link rel="icon" href="/mark.svg" type="image/svg+xml">@vite(['resources/scss/app.scss'])</head>
<body><main class="gate"><p class="mark"><x-mark /> Fulcrion</p><h1>{{ $title }}</h1>{{ $slot }}<p><a href="{{
    address('round') }}">To the start</a> <span
    class="quiet small">({{ $code }})</span></p></main></body>
</html>
