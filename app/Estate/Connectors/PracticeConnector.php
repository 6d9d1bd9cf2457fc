<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use App\Estate\Catalog\CatalogObject;
use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use Closure;
use Fulcrion\Core\Parquet\ParquetError;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Sql\Ast\CreateView;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\Printer;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\StandIn\Engine;
use Fulcrion\StandIn\Outcome;
use Fulcrion\StandIn\Physical\Limits;
use Fulcrion\StandIn\Physical\StoppedRun;
use Fulcrion\StandIn\Sql\FunctionLibrary;
use Fulcrion\StandIn\Sql\QueryBinder;
use Fulcrion\StandIn\Sql\Session;
use Fulcrion\StandIn\Storage\Manifest;
use Fulcrion\StandIn\Storage\TableStore;
use Fulcrion\StandIn\Storage\Warehouse;
use Fulcrion\StandIn\WarehouseError;

/**
 * A practice cluster of this installation.
 */
final class PracticeConnector implements CatalogSource, QueryRunner
{
    private const SECONDS = 60;

    public const ROWS = 10_000;

    /** Of the 512 MB a web process has, so that a run ends with a word and not with the process. */
    private const MEMORY = 400_000_000;

    private ?Engine $engine = null;

    public function __construct(private readonly Cluster $cluster)
    {
    }

    public function changes(): bool
    {
        return true;
    }

    public function functions(): array
    {
        return FunctionLibrary::names();
    }

    public function objects(): array
    {
        $warehouse = $this->engine()->warehouse;
        $objects = [];
        foreach ($warehouse->schemas() as $schema) {
            foreach ($warehouse->tables($schema) as $name) {
                $table = $warehouse->table($schema, $name);
                if ($table !== null) {
                    $objects[] = $this->table($warehouse, $table);
                }
            }
            foreach ($warehouse->views($schema) as $name) {
                $objects[] = $this->view($warehouse, $schema, $name);
            }
        }

        return $objects;
    }

    public function run(string $sql, string $schema, string $user, Closure $cancelled): QueryResult
    {
        $outcome = $this->guarded($sql, fn (): Outcome => $this->engine()->run($sql, $this->session($schema, $user), $this->limits($cancelled)));

        return new QueryResult($outcome->columns, $outcome->rows, $outcome->cut, $outcome->rowsAffected, $outcome->message, $outcome->plan, $outcome->elapsedUs);
    }

    public function plan(string $sql, string $schema, string $user, bool $run, Closure $cancelled): Plan
    {
        $plan = $this->guarded($sql, fn (): ?Plan => $run
            ? $this->engine()->actual($sql, $this->session($schema, $user), $this->limits($cancelled))
            : $this->engine()->explain($sql, $this->session($schema, $user)));

        return $plan ?? throw new SourceError('This statement has no plan: it reads nothing. Explain a query, or the query of an INSERT or CREATE TABLE AS.');
    }

    /** Forgets versions of tables that were written before a moment and are not current. */
    public function expire(int $beforeUs): void
    {
        $warehouse = $this->engine()->warehouse;
        foreach ($warehouse->schemas() as $schema) {
            foreach ($warehouse->tables($schema) as $name) {
                $warehouse->table($schema, $name)?->expire($beforeUs);
            }
        }
    }

    /** Puts a file where COPY finds it. */
    public function receive(string $name, string $path): void
    {
        $inbox = $this->engine()->warehouse->inbox();
        if (! @copy($path, "{$inbox}/{$name}")) {
            throw new SourceError('The file could not be written to the inbox; the disk may be full.');
        }
    }

    private function engine(): Engine
    {
        try {
            return $this->engine ??= new Engine(Warehouse::open(PracticeClusters::root($this->cluster->slug)));
        } catch (WarehouseError $error) {
            throw new SourceError($error->getMessage());
        }
    }

    private function session(string $schema, string $user): Session
    {
        return new Session($schema, $user, Clock::microseconds());
    }

    private function limits(Closure $cancelled): Limits
    {
        return new Limits(self::SECONDS, self::ROWS, $cancelled, static fn (): int => (int) hrtime(true), self::MEMORY);
    }

    /**
     * @template T
     *
     * @param  callable(): T  $work
     * @return T
     */
    private function guarded(string $sql, callable $work): mixed
    {
        try {
            return $work();
        } catch (SyntaxError $error) {
            throw new SourceError($error->getMessage(), $error->offset);
        } catch (StoppedRun $error) {
            throw new SourceError($error->getMessage(), null, true);
        } catch (WarehouseError $error) {
            $place = $error->offset === null ? '' : 'Line '.(substr_count(substr($sql, 0, $error->offset), "\n") + 1).': ';
            throw new SourceError($place.$error->getMessage(), $error->offset);
        } catch (ParquetError $error) {
            throw new SourceError($error->getMessage());
        }
    }

    private function table(Warehouse $warehouse, TableStore $table): CatalogObject
    {
        $manifest = $table->manifest();
        $definition = $manifest->definition;
        $statistics = $table->statistics();

        return new CatalogObject($table->schema, $table->name, false, $manifest->rows(), $manifest->bytes($warehouse->nodes), CatalogObject::columns($definition->columns), [
            'distribution' => $definition->distribution->describe(),
            'partitions' => $definition->partitioning === null ? 'none' : "{$manifest->partitionCount()}, {$definition->partitioning->describe()}",
            'clustering' => $definition->clustering === [] ? 'none' : implode(', ', $definition->clustering),
            'chunks' => Quantity::count(count($manifest->chunks)),
            'fullest node' => $this->fullest($warehouse, $manifest),
            'statistics' => $statistics === null ? 'never collected' : Quantity::duration(max(0, Clock::microseconds() - $statistics->collectedUs)).' old, '.Quantity::percent(($manifest->rowsChanged - $statistics->rowsChanged) / max(1, $statistics->rows)).' changed since',
            'versions' => (string) count($table->versions()),
        ]);
    }

    private function fullest(Warehouse $warehouse, Manifest $manifest): string
    {
        $rows = $manifest->rowsByNode($warehouse->nodes);
        $sum = array_sum($rows);

        return $sum === 0 ? Quantity::NONE : Quantity::percent(max($rows) / $sum).' of the rows';
    }

    private function view(Warehouse $warehouse, string $schema, string $name): CatalogObject
    {
        $sql = (string) $warehouse->view($schema, $name);
        try {
            $statement = (new Parser())->statement($sql);
            $query = $statement instanceof CreateView ? $statement->query : null;
            $fields = $query === null ? [] : (new QueryBinder($warehouse, $this->session($schema, '')))->query($query)->fields();
            $columns = array_map(static fn ($field): array => [$field->name, (string) $field->type, $field->nullable], $fields);

            return new CatalogObject($schema, $name, true, null, null, $columns, ['query' => $query === null ? $sql : (new Printer())->statement($query)]);
        } catch (WarehouseError|SyntaxError $error) {
            return new CatalogObject($schema, $name, true, null, null, [], ['broken' => $error->getMessage()]);
        }
    }
}
