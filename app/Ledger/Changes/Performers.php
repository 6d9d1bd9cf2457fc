<?php

declare(strict_types=1);

namespace App\Ledger\Changes;

/**
 * The performers benches have brought along.
 */
final readonly class Performers
{
    /** Under it benches bring theirs along. */
    public const TAG = 'performers';

    /**
     * @param  iterable<Performer>  $all
     */
    public function __construct(private iterable $all)
    {
    }

    public function of(string $kind): ?Performer
    {
        foreach ($this->all as $performer) {
            if ($performer->does($kind)) {
                return $performer;
            }
        }

        return null;
    }
}
