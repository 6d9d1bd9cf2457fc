<?php

declare(strict_types=1);

namespace Tests\Core\Storage;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Catalog\ZoneMap;
use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Core\Storage\ClusterRates;
use Fulcrion\Core\Storage\Distribution;
use Fulcrion\Core\Storage\Estate;
use Fulcrion\Core\Storage\Partitioning;
use Fulcrion\Core\Storage\Predicate;
use Fulcrion\Core\Storage\StatementUse;
use Fulcrion\Core\Storage\TableDefinition;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Storage\TableUse;
use Fulcrion\Core\Storage\Workload;

/**
 * Small layouts for tests: two columns of whole numbers, a and b.
 */
final class Tables
{
    /**
     * @param  list<array{0: int, 1: int, 2?: int, 3?: int, 4?: string}>  $spans least and greatest a, rows, node, partition
     * @param  list<string>  $clustering
     */
    public static function of(
        array $spans,
        int $chunkRows = 100,
        array $clustering = [],
        ?Distribution $distribution = null,
        ?Partitioning $partitioning = null,
        int $nodes = 4,
        int $rowFactor = 1,
    ): TableLayout {
        $chunks = [];
        foreach ($spans as $i => $span) {
            $rows = $span[2] ?? 10;
            $chunks[] = new Chunk("c{$i}", $span[3] ?? 0, $span[4] ?? '', $rows, $rows * 10, [
                new ZoneMap($span[0], $span[1], 0, $rows, $rows * 5),
                new ZoneMap(0, 9, 0, $rows, $rows * 5),
            ]);
        }

        return new TableLayout(
            's.t',
            new TableDefinition(
                [new Column('a', ColumnType::of(TypeKind::Bigint), false), new Column('b', ColumnType::of(TypeKind::Bigint))],
                $distribution ?? Distribution::even(),
                $partitioning,
                $clustering,
                $chunkRows,
            ),
            $nodes,
            $chunks,
            $rowFactor,
        );
    }

    /**
     * @param  list<TableUse>  $uses each of a statement of its own that runs a hundred times a week
     */
    public static function estate(TableLayout $table, array $uses): Estate
    {
        return new Estate(
            [$table->name => $table],
            new Workload(
                array_map(
                    static fn (TableUse $use, int $i): StatementUse => new StatementUse(hash('xxh128', (string) $i), 100.0, 1e9, 1e9, [
                        $use,
                    ]),
                    $uses,
                    array_keys($uses),
                ),
            ),
            new ClusterRates(1.0, 0.1, 0.1),
            0,
        );
    }

    /**
     * @param  list<Predicate>  $predicates
     */
    public static function reads(array $predicates): TableUse
    {
        return new TableUse('s.t', $predicates, [], [], [], ['a', 'b']);
    }
}
