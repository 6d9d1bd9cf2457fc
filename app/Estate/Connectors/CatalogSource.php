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
     * @param  bool  $withFacts whether the facts in words are wanted, which take longer
     * @return list<CatalogObject> by schema and name
     *
     * @throws SourceError
     */
    public function objects(bool $withFacts = true): array;

    /** What is another one as soon as anything of a table is; null where that is not known. */
    public function stamp(string $schema, string $table): ?string;
}
