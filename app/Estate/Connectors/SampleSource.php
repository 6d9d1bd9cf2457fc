<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

/**
 * A server that says what its sessions do at a moment.
 */
interface SampleSource
{
    /**
     * @return list<non-empty-list<string>> of each session at work: its account, what it was sent, its stage, and what it waits for
     *
     * @throws SourceError
     */
    public function sample(): array;
}
