<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use Fulcrion\Core\Capacity\StoredPart;

/**
 * A cluster that says what takes its space.
 */
interface SpaceSource
{
    /**
     * @return list<StoredPart>
     *
     * @throws SourceError
     */
    public function stored(): array;

    /**
     * @return float|null bytes it can store in all; null where only its hosts know
     *
     * @throws SourceError
     */
    public function storageBytes(): ?float;
}
