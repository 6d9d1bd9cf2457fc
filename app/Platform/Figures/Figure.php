<?php

declare(strict_types=1);

namespace App\Platform\Figures;

/**
 * A drawn figure with the table that says the same.
 */
final readonly class Figure
{
    /**
     * @param  list<string>  $head
     * @param  list<list<string>>  $rows
     */
    public function __construct(
        public string $svg,
        public string $summary,
        /** How the figures are computed and from how much. */
        public string $how,
        public array $head,
        public array $rows,
        /** What the page draws it from at its own width; null where the drawing is all there is. */
        public ?TimePlot $plot = null,
    ) {
    }
}
