@props(['of', 'label'])
<svg class="share" viewBox="0 0 82 8" role="img" aria-label="{{ $label }}"><rect class="track" width="82" height="8"/><rect class="bar" width="{{ round(82 * max(0, min(1, $of)), 1) }}" height="8"/></svg>
