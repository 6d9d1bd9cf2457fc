<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use App\Estate\Catalog\CatalogObject;

/**
 * A cluster that can list what it holds.
 */
interface CatalogSource
{
    /**
     * @return list<CatalogObject> by schema and name
     *
     * @throws SourceError
     */
    public function objects(): array;
}
