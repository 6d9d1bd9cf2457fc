<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use App\Estate\Rollups\LookupState;
use App\Estate\Rollups\RollupState;

/**
 * A cluster that keeps rollups and lookups.
 */
interface RollupSource
{
    /**
     * @return list<RollupState>
     *
     * @throws SourceError
     */
    public function rollups(): array;

    /**
     * @return list<LookupState>
     *
     * @throws SourceError
     */
    public function lookups(): array;

    /** Bytes of a node's memory lookups may take, of the modelled cluster. */
    public function lookupBudget(): float;
}
