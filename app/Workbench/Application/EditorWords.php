<?php

declare(strict_types=1);

namespace App\Workbench\Application;

use App\Estate\Authorization\Clusters;
use App\Estate\Catalog\CatalogObject;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use Fulcrion\Core\Sql\Keywords;

/**
 * What an editor of SQL offers while one types: the names of the catalog as far as its reader may see them, functions, keywords.
 */
final readonly class EditorWords
{
    public function __construct(private Clusters $clusters)
    {
    }

    /**
     * @return array{
     *     tables: array<string, array{kind: string, columns: list<array{string, string}>}>,
     *     functions: list<string>,
     *     keywords: list<string>,
     * } tables by schema.table, columns with their types
     */
    public function of(?Cluster $cluster, User $user): array
    {
        $tables = [];
        foreach ($this->objects($cluster, $user) as $object) {
            $tables["{$object->schema}.{$object->name}"] = [
                'kind' => $object->isView ? 'view' : 'table',
                'columns' => array_map(static fn (array $column): array => [$column[0], $column[1]], $object->columns),
            ];
        }
        $functions = $cluster === null ? [] : $this->clusters->for($user, 'editor')->runner($cluster)?->functions() ?? [];

        return [
            'tables' => $tables,
            'functions' => array_values(array_unique([...$functions, 'count', 'sum', 'avg', 'min', 'max'])),
            'keywords' => array_map(strval(...), array_keys(Keywords::set())),
        ];
    }

    /**
     * @return list<CatalogObject>
     */
    private function objects(?Cluster $cluster, User $user): array
    {
        try {
            return $cluster === null ? [] : $this->clusters->for($user, 'editor')->objects($cluster) ?? [];
        } catch (SourceError) {
            // A cluster that does not answer has no names to offer; the page itself says what is wrong.
            return [];
        }
    }
}
