<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

/**
 * One row of a server's table of statement digests at one moment.
 */
final readonly class DigestReading
{
    /** In place of a text, where the server counts statements without telling which. */
    public const UNTOLD_FULL = '(statements the full digest table of the server has no row for)';

    public const UNTOLD_PREPARED = '(prepared statements that were closed before they could be read)';

    /**
     * @param  array<string, int>  $counters since the server or the row began; `count` and names of LoadAggregate::SUMS
     */
    public function __construct(
        public string $key,
        public string $database,
        public string $text,
        public array $counters,
        public int $minUs,
        public int $maxUs,
        /** When the row began, as the server writes it. */
        public string $born,
        public int $bornUs,
        public int $lastUs,
    ) {
    }

    public function isTold(): bool
    {
        return $this->text !== self::UNTOLD_FULL && $this->text !== self::UNTOLD_PREPARED;
    }
}
