<?php

declare(strict_types=1);

namespace App\Tuning\Application;

use App\Ledger\Changes\Proposal;
use Closure;

/**
 * One thing a tuning run tries.
 */
final readonly class TuningRemedy
{
    /**
     * @param  list<string>  $tables whose statements it may change
     * @param  Closure(): void  $do on the copies
     * @param  Closure(): void  $undo
     */
    public function __construct(
        public string $title,
        public array $tables,
        public Closure $do,
        public Closure $undo,
        /** What would be asked of the cluster itself. */
        public Proposal $proposal,
        /** Bytes of the modelled cluster that are written anew. */
        public float $rewritten,
    ) {
    }
}
