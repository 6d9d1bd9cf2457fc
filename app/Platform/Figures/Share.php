<?php

declare(strict_types=1);

namespace App\Platform\Figures;

use Illuminate\Support\HtmlString;

/**
 * A small bar inside a table's cell.
 */
final class Share
{
    public static function bar(float $of, string $label): HtmlString
    {
        $width = Svg::number(82 * max(0.0, min(1.0, $of)));

        return new HtmlString(
            '<svg class="share" viewBox="0 0 82 8" role="img" aria-label="'.
                e($label).
                '"><rect class="track" width="82" height="8"/><rect class="bar" width="'.
                $width.
                '" height="8"/></svg><br>',
        );
    }
}
