<?php

declare(strict_types=1);

namespace App\Statements\Application;

/**
 * The same statement in the window before.
 */
final readonly class LoadBefore
{
    public function __construct(
        public int $executions,
        public ?float $meanUs,
    ) {
    }
}
