<?php

declare(strict_types=1);

namespace App\Statements\Application;

/**
 * Something about a statement or a user that deserves a look, with the figures that say so.
 */
final readonly class Anomaly
{
    public function __construct(
        /** slower, faster, rare and heavy, steady repetition, always fails, mostly fails, reads more, reads less */
        public string $kind,
        /** watch or act */
        public string $state,
        public ?string $fingerprint,
        public ?string $user,
        public string $subject,
        public string $sentence,
        /** Seconds of load a week that it accounts for; 0 when time is not the measure. */
        public float $secondsPerWeek,
        /** Window in which to look at it, as typed. */
        public string $window,
    ) {
    }
}
