@props(['of', 'label'])
<svg class="bar-progress" viewBox="0 0 400 10" preserveAspectRatio="none" role="progressbar" aria-label="{{
    $label }}" aria-valuemin="0" aria-valuemax="100" aria-valuenow="{{ (int) (100 * $of) }}"><rect class="track" x=".5" y=".5"
    width="399" height="9"/><rect class="bar" width="{{ round(400 * $of, 1) }}" height="10"/></svg>
