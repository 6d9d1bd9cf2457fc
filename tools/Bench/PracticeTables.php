<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Storage\Distribution;
use Fulcrion\Core\Storage\TableDefinition;
use Fulcrion\Practice\Physical\Limits;
use Fulcrion\Practice\Sql\Session;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\TableWriter;
use Fulcrion\Practice\Storage\Warehouse;

/**
 * A practice cluster for benches.
 */
final class PracticeTables
{
    public const CHUNK_ROWS = 65_536;

    public static function warehouse(string $name): Warehouse
    {
        $root = Scratch::folder()."/practice-{$name}";
        if (is_dir($root)) {
            Warehouse::open($root)->destroy();
        }
        $warehouse = Warehouse::create($root, $name, 4, new HardwareProfile());
        $warehouse->createSchema('bench');

        return $warehouse;
    }

    /**
     * @param  array<string, list<int>>  $columns all of whole numbers
     * @param  list<string>  $clustering
     */
    public static function table(Warehouse $warehouse, string $name, array $columns, array $clustering, int $chunkRows): void
    {
        $definition = new TableDefinition(
            array_map(
                static fn (string $column): Column => new Column($column, ColumnType::of(TypeKind::Bigint), false),
                array_keys($columns),
            ),
            Distribution::even(),
            null,
            $clustering,
            $chunkRows,
        );
        $table = $warehouse->createTable('bench', $name, $definition, 0);
        $writer = new TableWriter($table, $table->manifest(), $warehouse->nodes);
        $rows = count(array_values($columns)[0] ?? []);
        for ($at = 0; $at < $rows; $at += self::CHUNK_ROWS) {
            $writer->add(array_map(static fn (array $values): array =>
                array_slice($values, $at, self::CHUNK_ROWS), array_values($columns)));
        }
        $writer->commit(0);
    }

    public static function session(): Session
    {
        return new Session('bench', 'bench', 0);
    }

    public static function limits(): Limits
    {
        return new Limits(300, 1_000_000, null, static fn (): int => (int) hrtime(true));
    }
}
