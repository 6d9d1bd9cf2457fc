<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statements\Symptoms;

/**
 * What a server counted of one statement in some span of time.
 */
final readonly class Counted
{
    /**
     * @param  string  $text normalised
     * @param  int  $unindexed runs that read a table as a whole, or joined one without an index
     * @param  int  $failed runs that ended with an error or ran out of time
     */
    public function __construct(
        public string $text,
        public int $executions,
        public int $durationUs,
        public int $rowsExamined = 0,
        public int $rowsReturned = 0,
        public int $rowsAffected = 0,
        public int $unindexed = 0,
        public int $tmpDisk = 0,
        public int $failed = 0,
    ) {
    }

    /** Rows looked at for each that was given back or changed. */
    public function examinedForOne(): float
    {
        return $this->rowsExamined / max(1, $this->rowsReturned + $this->rowsAffected);
    }

    public function examinedEach(): float
    {
        return $this->rowsExamined / max(1, $this->executions);
    }

    public function meanUs(): float
    {
        return $this->durationUs / max(1, $this->executions);
    }
}
