<?php

declare(strict_types=1);

namespace Fulcrion\Core\Health;

/**
 * A node whose disk does only a part of what it should, from a moment on.
 */
final readonly class NodeCondition
{
    /**
     * @param  int  $node from 0
     * @param  float  $diskShare of the throughput of the other nodes, above 0
     */
    public function __construct(public int $node, public float $diskShare, public int $fromUs)
    {
    }
}
