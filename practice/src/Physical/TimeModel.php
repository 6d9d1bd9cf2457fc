<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Physical;

use Fulcrion\Practice\Storage\HardwareProfile;

/**
 * The time a step would take on the modelled cluster, from its counters alone; the formula and its figures are
 * explained in docs/practice-cluster.md.
 */
final readonly class TimeModel
{
    /** What setting up an exchange between nodes costs. */
    private const EXCHANGE_US = 400;

    public function __construct(private HardwareProfile $profile)
    {
    }

    public function nodeUs(Step $step, Counters $counters): int
    {
        $p = $this->profile;
        $seconds =
            ($counters->rowsIn * $step->rowWeight()) / ($p->cores * $p->rowsPerSecondPerCore) +
            $counters->bytesRead / $p->diskBytesPerSecond +
            $counters->bytesSent / $p->networkBytesPerSecond +
            (2 * max(0, $counters->bytesSpilled)) / $p->diskBytesPerSecond;

        // A modelled table has as many chunks as the stored one, each that much larger.
        return (int) ceil($seconds * $p->rowFactor * 1e6 + ($counters->chunksRead * $p->chunkOpenUs) / $p->cores);
    }

    /** Time of all steps below one so far, itself included. */
    public function treeUs(Step $step, int $nodes): int
    {
        $us = $this->stepUs($step, $nodes);
        foreach ($step->inputs as $input) {
            $us += $this->treeUs($input, $nodes);
        }

        return $us;
    }

    /** A step is as slow as its slowest node. */
    public function stepUs(Step $step, int $nodes): int
    {
        $most = 0;
        for ($node = 0; $node < $nodes; $node++) {
            $most = max($most, $this->nodeUs($step, $step->counters($node)));
        }

        return $most + ($step instanceof ExchangeStep ? self::EXCHANGE_US : 0);
    }
}
