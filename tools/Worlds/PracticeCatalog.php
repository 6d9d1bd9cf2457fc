<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Worlds;

use Fulcrion\Core\Access\Catalog\AccessCatalog;
use Fulcrion\Core\Access\Catalog\ColumnOrigin;
use Fulcrion\Core\Access\Catalog\TableEntry;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Sql\Ast\CreateView;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Practice\Sql\QueryBinder;
use Fulcrion\Practice\Sql\Session;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Practice\WarehouseError;

/**
 * What practice clusters hold, as deciders need it.
 */
final readonly class PracticeCatalog
{
    /**
     * @param  array<string, Warehouse>  $clusters by name
     */
    public static function of(array $clusters): AccessCatalog
    {
        $entries = [];
        foreach ($clusters as $cluster => $warehouse) {
            foreach ($warehouse->schemas() as $schema) {
                foreach ($warehouse->tables($schema) as $name) {
                    $table = $warehouse->table($schema, $name);
                    $columns = [];
                    foreach ($table?->manifest()->definition->columns ?? [] as $column) {
                        $columns[$column->name] = $column->type;
                    }
                    $origins = array_map(
                        static fn (array $one): ColumnOrigin => new ColumnOrigin(
                            ObjectPath::of([$one['cluster'] === '' ? $cluster : $one['cluster'], ...explode('.', $one['path'], 2)]),
                            $one['columns'],
                            $one['conditions'],
                            $one['row'],
                            $one['former'],
                        ),
                        $table?->origins()->list() ?? [],
                    );
                    $entries[] = new TableEntry(ObjectPath::of([$cluster, $schema, $name]), $columns, null, $origins);
                }
                foreach ($warehouse->views($schema) as $name) {
                    $sql = (string) $warehouse->view($schema, $name);
                    $statement = (new Parser())->statement($sql);
                    if ($statement instanceof CreateView) {
                        $columns = [];
                        try {
                            foreach (
                                (new QueryBinder($warehouse, new Session($schema)))->query($statement->query)->fields() as $i => $field
                            ) {
                                $columns[strtolower($statement->columns[$i] ?? $field->name)] = $field->type;
                            }
                        } catch (WarehouseError) {
                            // What it reads is gone.
                            continue;
                        }
                        $entries[] = new TableEntry(ObjectPath::of([$cluster, $schema, $name]), $columns, $sql);
                    }
                }
            }
        }

        return new AccessCatalog($entries);
    }
}
