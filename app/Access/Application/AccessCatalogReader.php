<?php

declare(strict_types=1);

namespace App\Access\Application;

use App\Estate\Authorization\ActingRunner;
use App\Estate\Authorization\Actor;
use App\Estate\Authorization\ActorClusters;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Catalog\CatalogObject;
use App\Estate\Connectors\AccessSource;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Platform\Support\SealedCache;
use Fulcrion\Core\Access\Catalog\AccessCatalog;
use Fulcrion\Core\Access\Catalog\Hierarchy;
use Fulcrion\Core\Access\Catalog\TableEntry;
use Fulcrion\Core\Access\Catalog\TreeRow;
use Fulcrion\Core\Access\Policy\Document;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Sql\Printer;

/**
 * The catalog of all clusters, and the trees policies speak of, as they are right now.
 */
final class AccessCatalogReader
{
    private const TREE_ROWS = 50_000;

    private ?AccessCatalog $catalog = null;

    /** @var array<string, string> cluster => what keeps it from being read */
    public array $troubles = [];

    /** @var array<string, list<TreeRow>> */
    private array $trees = [];

    public function __construct(private readonly Clusters $clusters)
    {
    }

    public function forget(): void
    {
        $this->catalog = null;
        $this->trees = [];
    }

    public function catalog(): AccessCatalog
    {
        if ($this->catalog !== null) {
            return $this->catalog;
        }
        $tables = $places = [];
        /** @var list<Cluster> $clusters */
        $clusters = Cluster::query()
            ->whereIn('connector', ['practice', 'mariadb'])
            ->orderBy('id')
            ->get()
            ->all();
        foreach ($clusters as $cluster) {
            $places[] = ObjectPath::of([$cluster->slug]);
            try {
                foreach ($this->objects($cluster) as $object) {
                    $columns = [];
                    foreach ($object->columns as [$name, $type]) {
                        $columns[strtolower($name)] = self::type($type);
                    }
                    $tables[] = new TableEntry(
                        ObjectPath::of([$cluster->slug, $object->schema, $object->name]),
                        $columns,
                        $object->isView ? (string) $object->definition : null,
                        $object->origins,
                        $object->keys,
                    );
                }
            } catch (SourceError $error) {
                $this->troubles[$cluster->name] = $error->getMessage();
            }
        }

        return $this->catalog = new AccessCatalog($tables, $places);
    }

    private function reach(): ActorClusters
    {
        return $this->clusters->as(Actor::system(SystemActor::Policy, 'the catalog and trees of values'));
    }

    /**
     * @return list<CatalogObject>
     */
    private function objects(Cluster $cluster): array
    {
        // Where access can be written out, only the schemas it may be written to are ours to decide on.
        $access = $this->reach()->access($cluster);

        return $access instanceof AccessSource ? $access->objects() : $this->reach()->catalog($cluster)?->objects(false) ?? [];
    }

    /**
     * @param  string  $day as 2026-11-30
     * @return array<string, Hierarchy>
     */
    public function hierarchies(Document $document, string $day): array
    {
        $hierarchies = [];
        foreach ($document->all(Kind::Hierarchies) as $item) {
            $path = $item->text('table');
            try {
                $rows = $this->trees[$item->digest()] ??= $this->tree(
                    $path,
                    $item->text('node'),
                    $item->text('parent'),
                    $item->text('name'),
                    $item->text('from'),
                    $item->text('to'),
                );
            } catch (SourceError $error) {
                // Without its tree nobody stands in any branch: nothing is opened by a table that cannot be read.
                $this->troubles[$path] = $error->getMessage();
                $rows = [];
            }
            $hierarchies[$item->name] = new Hierarchy($rows, $day);
        }

        return $hierarchies;
    }

    /**
     * @return list<TreeRow>
     */
    private function tree(string $path, string $node, string $parent, string $name, string $from, string $to): array
    {
        [$slug, $schema, $table] = [...ObjectPath::parts($path), '', '', ''];
        $cluster = Cluster::query()->where('slug', $slug)->first();
        $runner = $cluster instanceof Cluster ? $this->reach()->runner($cluster) : null;
        if ($runner === null) {
            throw new SourceError("{$path} cannot be read.");
        }
        $stamp = $this->reach()->catalog($cluster)?->stamp($schema, $table);
        if ($stamp === null) {
            return $this->treeRows($runner, $path, $schema, $table, $node, $parent, $name, $from, $to);
        }
        // Of a table that says when it changed, the rows are read once for each of its versions.

        return SealedCache::remember(
            'tree',
            [$path, $stamp, $node, $parent, $name, $from, $to],
            [TreeRow::class],
            fn (): array => $this->treeRows($runner, $path, $schema, $table, $node, $parent, $name, $from, $to),
        );
    }

    /**
     * @return list<TreeRow>
     */
    private function treeRows(
        ActingRunner $runner,
        string $path,
        string $schema,
        string $table,
        string $node,
        string $parent,
        string $name,
        string $from,
        string $to,
    ): array {
        $result =
            $runner->run('SELECT * FROM '.(new Printer())->path([$schema, $table]).' LIMIT '.self::TREE_ROWS, $schema)->result ??
            throw new SourceError("{$path} gave no rows.");
        $rows = [];
        foreach ($result->rows as $values) {
            $row = [];
            foreach ($result->columns as $i => $column) {
                $row[strtolower($column->name)] = $values[$i] === null ? null : $column->type->show($values[$i]);
            }
            foreach ([$node, $parent, $name] as $needed) {
                if (! array_key_exists(strtolower($needed), $row)) {
                    throw new SourceError("{$path} has no column {$needed}.");
                }
            }
            $rows[] = new TreeRow(
                (string) $row[strtolower($node)],
                $row[strtolower($parent)],
                (string) $row[strtolower($name)],
                $from === '' ? null : $row[strtolower($from)] ?? null,
                $to === '' ? null : $row[strtolower($to)] ?? null,
                $row,
            );
        }

        return $rows;
    }

    private static function type(string $declared): ColumnType
    {
        $declared = strtolower($declared);
        if (preg_match('~^(?:decimal|numeric)\((\d+),\s*(\d+)\)~', $declared, $m) === 1) {
            return ColumnType::decimal(min(ColumnType::MOST_DIGITS, (int) $m[1]), (int) $m[2]);
        }

        return ColumnType::of(
            match (true) {
                preg_match('~^(?:tiny|small|medium|big)?int~', $declared) === 1 => TypeKind::Bigint,
                preg_match('~^(?:double|float|real)~', $declared) === 1 => TypeKind::Double,
                str_starts_with($declared, 'bool') => TypeKind::Boolean,
                $declared === 'date' => TypeKind::Date,
                preg_match('~^(?:datetime|timestamp)~', $declared) === 1 => TypeKind::Timestamp,
                default => TypeKind::Text,
            },
        );
    }
}
