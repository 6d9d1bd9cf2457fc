<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rollups;

/**
 * What a statement that groups needs to know of one table: a rollup with at least these dimensions and measures could
 * answer it.
 */
final readonly class AggregateUse
{
    /**
     * @param  list<Dimension>  $dimensions what it groups, filters and joins by
     * @param  list<string>  $measures as SQL over plain column names
     * @param  list<string>  $joined tables whose keys are among the dimensions
     */
    public function __construct(
        /** Fingerprint of the statement. */
        public string $statement,
        public float $executions,
        /** schema.table */
        public string $table,
        public array $dimensions,
        public array $measures,
        public array $joined = [],
        /** Modelled time of reading the table for one execution. */
        public float $readUs = 0.0,
        /** Stored bytes one execution reads of it. */
        public float $readBytes = 0.0,
        /** Share of a rollup ordered by time it would read. */
        public float $share = 1.0,
    ) {
    }
}
