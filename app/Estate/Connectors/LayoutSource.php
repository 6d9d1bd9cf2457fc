<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use Fulcrion\Core\Layout\ClusterRates;
use Fulcrion\Core\Layout\ColumnSpread;
use Fulcrion\Core\Layout\Sample;
use Fulcrion\Core\Layout\TableLayout;

/**
 * A cluster that tells how its tables lie.
 */
interface LayoutSource
{
    /**
     * @return array<string, TableLayout> by schema.table; without their history
     *
     * @throws SourceError
     */
    public function layouts(): array;

    /**
     * One table, with its old versions and the files that belong to none.
     *
     * @throws SourceError
     */
    public function layout(string $table): ?TableLayout;

    public function rates(): ClusterRates;

    /**
     * @throws SourceError
     */
    public function sample(string $table, int $rows): Sample;

    /**
     * Counted on all rows.
     *
     * @throws SourceError
     */
    public function spread(string $table, string $column): ColumnSpread;
}
