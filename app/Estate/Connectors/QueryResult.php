<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Plans\Plan;

final readonly class QueryResult
{
    /**
     * @param  list<Column>  $columns
     * @param  list<list<int|float|string|bool|null>>  $rows values as Fulcrion\Core\Catalog\TypeKind says
     */
    public function __construct(
        public array $columns,
        public array $rows,
        /** Whether there were more rows than are given. */
        public bool $cut,
        public int $rowsAffected,
        public string $message,
        public ?Plan $plan,
        /** By the clock of this machine. */
        public int $elapsedUs,
    ) {
    }

    /** The same with another plan. */
    public function with(?Plan $plan): self
    {
        return new self($this->columns, $this->rows, $this->cut, $this->rowsAffected, $this->message, $plan, $this->elapsedUs);
    }
}
