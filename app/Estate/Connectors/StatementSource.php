<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use Fulcrion\Core\Telemetry\Execution;

/**
 * A server whose statements can be watched while it runs.
 */
interface StatementSource
{
    /**
     * What is missing for watching; empty when all is well.
     *
     * @return list<array{problem: string, remedy: string}>
     */
    public function check(): array;

    /**
     * @return list<DigestReading>
     */
    public function digests(): array;

    /**
     * Single executions the server still remembers, oldest first.
     *
     * @return list<Execution>
     */
    public function recent(int $sinceUs): array;

    /**
     * @return list<RunningStatement> oldest first
     */
    public function running(): array;
}
