<?php

declare(strict_types=1);

namespace App\Health\Probes;

use App\Platform\Parts\OwnPart;
use App\Platform\Support\Clock;

/**
 * Whether probes run as often as they should.
 */
final readonly class ProbePart
{
    public function __construct(private ProbeBook $probes)
    {
    }

    public function of(): OwnPart
    {
        $now = Clock::seconds();
        $on = array_filter($this->probes->all(), static fn (Probe $one): bool => $one->isOn);
        $late = array_filter($on, fn (Probe $one): bool => ($this->probes->last($one) ?? 0) < $now - 3 * $one->everySeconds);

        return new OwnPart($late === [] ? 'calm' : 'watch', match (true) {
            $on === [] => 'No probe is set.',
            $late === [] => 'All probes run in time.',
            default => count($late).' of '.count($on).' probes did not run in time.',
        }, ['late' => (float) count($late)]);
    }
}
