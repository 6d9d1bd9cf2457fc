<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use App\Platform\Runs\Foreseen;
use RuntimeException;

/**
 * What a cluster said instead of an answer, fit to be shown: the message holds no value of a table.
 */
final class SourceError extends RuntimeException implements Foreseen
{
    public function __construct(
        string $message,
        /** Place in the statement, in bytes. */
        public readonly ?int $offset = null,
        /** Whether a person or a limit stopped it. */
        public readonly bool $stopped = false,
        /** Record of the decision about the statement. */
        public readonly ?int $decision = null,
        /** The text with the values to blame, for those who may see them; null where it shows none anyway. */
        public readonly ?string $sealed = null,
        /** Whether the policy refused it, so that nothing was asked of the cluster. */
        public readonly bool $refused = false,
        /** Number of the limit that held it, or ended it on the way. */
        public readonly ?int $limit = null,
    ) {
        parent::__construct($message);
    }

    /** Whether a limit held it, so that nothing was run. */
    public function isHeld(): bool
    {
        return $this->limit !== null && ! $this->stopped;
    }

    public function isStop(): bool
    {
        return $this->stopped;
    }
}
