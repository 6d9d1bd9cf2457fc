<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Rollups;

/**
 * Chunks of a rollup and the chunks of its table they were computed from.
 */
final readonly class Segment
{
    /**
     * @param  list<string>  $from files of the table
     * @param  list<string>  $chunks files of the rollup
     */
    public function __construct(public string $partition, public array $from, public array $chunks)
    {
    }
}
