<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans;

/**
 * Rows of a plan step as expected and as they came. Null means not known.
 */
final readonly class StepRows
{
    public function __construct(
        /** In one loop. */
        public ?float $estimated = null,
        /** In all loops together. */
        public ?float $actual = null,
        /** What came in, in all loops together. */
        public ?float $in = null,
        /** How often the step was run from the start. */
        public int $loops = 1,
    ) {
    }
}
