<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Indexes;

/**
 * An index that a query is best served with.
 */
final readonly class ChosenIndex
{
    /**
     * @param  non-empty-list<string>  $columns
     * @param  float  $saved its part of what is saved, as a share of what the statement costs now
     * @param  float  $rowsNow looked at without any of them, modelled
     * @param  float  $rowsThen with all that were chosen
     * @param  bool  $sorts whether rows come in the order they are wanted
     * @param  bool  $covers whether the table itself need not be looked at
     */
    public function __construct(
        public string $table,
        public array $columns,
        public float $saved,
        public float $rowsNow,
        public float $rowsThen,
        public bool $sorts,
        public bool $covers,
    ) {
    }
}
