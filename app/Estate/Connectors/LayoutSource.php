<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use Fulcrion\Core\Storage\ClusterRates;
use Fulcrion\Core\Storage\ColumnSpread;
use Fulcrion\Core\Storage\Encodings\Place;
use Fulcrion\Core\Storage\Sample;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Storage\TableOutline;

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
     * The same in outline, which is quick.
     *
     * @return array<string, TableOutline> by schema.table
     *
     * @throws SourceError
     */
    public function outlines(): array;

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
     * All rows of some nodes and partitions, chosen evenly over all there are.
     *
     * @return array{list<Place>, int} places, of how many
     *
     * @throws SourceError
     */
    public function places(string $table, int $most): array;

    /**
     * Counted on all rows.
     *
     * @throws SourceError
     */
    public function spread(string $table, string $column): ColumnSpread;
}
