<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

/**
 * What a server does not tell, or does not let be read, and what would help.
 */
final readonly class Missing
{
    public function __construct(
        public string $problem,
        /** A statement for the server, or what to look at. */
        public string $remedy,
        /** The line of its configuration without which the remedy is lost by a restart; empty where it is not. */
        public string $keeps = '',
    ) {
    }
}
