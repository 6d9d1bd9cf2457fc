@props(['document', 'name', 'value' => null, 'stray' => false, 'detected' => false])
@php $entry = $document->find(Fulcrion\Core\Access\Policy\Kind::Vocabulary, $name); @endphp
<span @class(['label-mark', 'free' => $entry === null, 'stray' => $stray, 'detected' => $detected, 'hue-'.($entry?->text('hue',
    'slate') ?? 'slate'), 'shape-'.($entry?->text('shape', 'plain') ?? 'plain')])>{{ $name }}@if($value !== null) = {{
    $value }}@endif @if($stray)<span class="visually-hidden">not allowed</span>@elseif($entry === null)<span
    class="visually-hidden">free</span>@elseif($detected)<span class="visually-hidden">detected</span>@endif</span>
