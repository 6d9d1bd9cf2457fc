<?php

declare(strict_types=1);

namespace Database\Demo;

/**
 * One statement of the demo world and how a healthy run of it behaves on the modelled cluster.
 */
final readonly class DemoStatement
{
    public function __construct(
        /** Text with {day}, {from}, {bay}, {site}, {n} and {id} for literals, {key} for endings of names. */
        public string $template,
        public string $team,
        public string $application,
        public string $database,
        public int $baseUs,
        public int $rowsExamined,
        public int $rowsReturned,
        public int $bytesScanned,
        public int $rowsAffected = 0,
        public bool $fullScan = false,
        /** Minutes between runs, or 0 when people run it. */
        public int $everyMinutes = 0,
        /** Minute of the day of a nightly run, or -1. */
        public int $nightlyAt = -1,
        /** How often people pick it among their team's statements. */
        public float $weight = 1.0,
        public string $trouble = '',
    ) {
    }
}
