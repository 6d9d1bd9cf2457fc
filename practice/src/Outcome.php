<?php

declare(strict_types=1);

namespace Fulcrion\Practice;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Plans\Plan;

/**
 * What a statement gave.
 */
final readonly class Outcome
{
    /**
     * @param  list<Column>  $columns
     * @param  list<list<int|float|string|bool|null>>  $rows
     */
    public function __construct(
        public array $columns,
        public array $rows,
        /** Whether there were more rows than the limit of the run let through. */
        public bool $cut,
        public int $rowsAffected,
        /** Null for statements that have no plan. */
        public ?Plan $plan,
        /** Time PHP took, measured. */
        public int $elapsedUs,
        public string $message = '',
    ) {
    }
}
