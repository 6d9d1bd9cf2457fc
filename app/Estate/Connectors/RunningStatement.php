<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

final readonly class RunningStatement
{
    public function __construct(
        public int $session,
        public string $user,
        public string $clientHost,
        public string $database,
        public string $state,
        public int $runningUs,
        public string $sql,
    ) {
    }
}
