@props(['factor'])
@if($factor > 1)<span class="scale" title="Each stored row stands for {{
    Fulcrion\Core\Text\Quantity::count($factor) }}; sizes are those of the modelled cluster, rows those stored.">modelled ×{{
    Fulcrion\Core\Text\Quantity::count($factor) }}</span>@endif
