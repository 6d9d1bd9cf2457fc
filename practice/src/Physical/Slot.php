<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Physical;

use Fulcrion\Practice\Expression\Expr;

/**
 * One thing kept a group while rows go by; an aggregate is made of one or two.
 */
final readonly class Slot
{
    public const COUNT = 'count';

    public const SUM = 'sum';

    public const MIN = 'min';

    public const MAX = 'max';

    /** The distinct values. */
    public const SET = 'set';

    /** A sketch of the distinct values. */
    public const SKETCH = 'sketch';

    public function __construct(
        public string $kind,
        public ?Expr $argument,
        public ?Expr $filter,
        /** Of a sketch: whether its argument is one too. */ public bool $folds = false,
    ) {
    }
}
