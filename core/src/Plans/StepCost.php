<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans;

/**
 * What a plan step took, in all loops together. Null means not known.
 */
final readonly class StepCost
{
    public function __construct(
        /** Without its inputs. */
        public ?int $ownUs = null,
        public ?int $bytesSent = null,
        public ?int $memoryPeak = null,
        public ?int $bytesSpilled = null,
    ) {
    }
}
