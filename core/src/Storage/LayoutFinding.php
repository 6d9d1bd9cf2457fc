<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

/**
 * A house rule a table breaks.
 */
final readonly class LayoutFinding
{
    /** Labels of the evidence that quotes statements with their values. */
    public const QUOTING = ['filter', 'said as a span'];

    /**
     * @param  list<array{string, string}>  $evidence label and value
     * @param  list<string>  $statements that fix it; empty where the advice of $remedy makes them
     * @param  list<string>  $inverse
     * @param  array<string, float>  $byStatementUs what of the weight each statement pays, by fingerprint, where it can be told
     */
    public function __construct(
        public string $rule,
        /** schema.table, or schema.table#fingerprint where one statement is at fault. */
        public string $object,
        public bool $act,
        public string $problem,
        public array $evidence,
        /** Modelled time a week it costs; 0 where that cannot be told. */
        public float $weightUs = 0.0,
        /** Bytes a week read or stored for nothing, of the modelled cluster. */
        public float $weightBytes = 0.0,
        /** compaction, clustering, partitions, distribution, statistics, rewrite, expiry, sweep; empty where a person has to decide. */
        public string $remedy = '',
        public array $statements = [],
        public array $inverse = [],
        public array $byStatementUs = [],
    ) {
    }
}
