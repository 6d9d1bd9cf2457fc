<?php

declare(strict_types=1);

namespace App\Ledger\Changes;

/**
 * The performers benches have brought along.
 */
final readonly class ChangeExecutors
{
    /** Under it benches bring theirs along. */
    public const TAG = 'performers';

    /**
     * @param  iterable<ChangeExecutor>  $all
     */
    public function __construct(private iterable $all)
    {
    }

    public function of(string $kind): ?ChangeExecutor
    {
        foreach ($this->all as $executor) {
            if ($executor->does($kind)) {
                return $executor;
            }
        }

        return null;
    }
}
