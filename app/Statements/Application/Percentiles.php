<?php

declare(strict_types=1);

namespace App\Statements\Application;

/**
 * How long executions took; null where too few single durations are known.
 */
final readonly class Percentiles
{
    public function __construct(
        public ?int $p50Us,
        public ?int $p95Us,
        public ?int $p99Us,
        /** Executions whose single durations are known. */
        public int $measured,
    ) {
    }
}
