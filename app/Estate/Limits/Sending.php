<?php

declare(strict_types=1);

namespace App\Estate\Limits;

use App\Estate\Models\Cluster;
use Closure;
use Fulcrion\Core\Limits\Sender;
use Fulcrion\Core\Limits\StatementEstimate;

/**
 * A statement, or a job, on its way to a cluster.
 */
final readonly class Sending
{
    /**
     * @param  string  $sql empty for a job
     * @param  Closure(): ?StatementEstimate  $estimate asked for only where a limit needs it
     * @param  bool  $isKept whether its execution is kept like those that are observed, and counted there as well
     * @param  bool  $isVeiled whether what it would read may not be told
     */
    public function __construct(
        public Sender $sender,
        public Cluster $cluster,
        public string $sql,
        public Closure $estimate,
        public bool $isKept = true,
        public bool $isVeiled = false,
        /** How long it may run before it is taken for dead. */
        public int $mostSeconds = 600,
    ) {
    }
}
