<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

/**
 * A server that says how it is and how it is set.
 */
interface StateSource
{
    /**
     * @throws SourceError
     */
    public function state(): ServerState;

    /**
     * @return array<string, string> by name; those that change by themselves are left out
     *
     * @throws SourceError
     */
    public function variables(): array;
}
