<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

/**
 * A server whose statements can be watched while it runs.
 */
interface StatementSource
{
    /**
     * What is missing for watching; empty when all is well.
     *
     * @return list<Missing>
     */
    public function check(): array;

    /**
     * @return list<DigestReading>
     */
    public function digests(): array;

    /**
     * Statements that clients prepared and send by number, which the digests leave out; null where the server does not tell.
     */
    public function prepared(): ?PreparedReading;

    /**
     * Single executions the server still remembers.
     *
     * @param  int|null  $cursor of the last reading; null only finds where to begin
     */
    public function recent(?int $cursor): RecentReading;

    /**
     * @return list<RunningStatement> oldest first
     */
    public function running(): array;
}
