<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Rollups;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Core\Storage\Distribution;
use Fulcrion\Core\Storage\TableDefinition;
use Fulcrion\Practice\Engine;
use Fulcrion\Practice\Expression\Ref;
use Fulcrion\Practice\Logical\Estimator;
use Fulcrion\Practice\Logical\Scan;
use Fulcrion\Practice\Physical\Batch;
use Fulcrion\Practice\Physical\Limits;
use Fulcrion\Practice\Sql\Session;
use Fulcrion\Practice\Sql\TableChanges;
use Fulcrion\Practice\Storage\Manifest;
use Fulcrion\Practice\Storage\TableStore;
use Fulcrion\Practice\Storage\TableWriter;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Practice\Switches;
use Fulcrion\Practice\WarehouseError;

/**
 * Makes rollups and brings them up to their tables: chunks that came are folded in, and partitions that lost chunks
 * are computed anew.
 */
final readonly class RollupKeeper
{
    /** Segments of one partition, beyond which they are put together. */
    private const SEGMENTS = 8;

    /** Partitions computed one by one; tables of more are folded in as a whole. */
    private const PARTITIONS = 100;

    private const LEAST_ROWS = 256;

    /** Values of a group a node gets at least, for the rollup to be distributed by them. */
    private const VALUES_PER_NODE = 8.0;

    /** Chunks of a node a rollup is cut into, where it has the rows. */
    private const CHUNKS = 8;

    public function __construct(private Engine $engine, private Warehouse $warehouse, private Session $session, private Limits $limits)
    {
    }

    /**
     * @return int rows
     */
    public function create(string $schema, string $name, string $sql, string $stale): int
    {
        $shape = Shape::of($this->warehouse, $this->session, $sql);
        $other = Shape::of(
            $this->warehouse,
            new Session($this->session->schema, $this->session->user, $this->session->nowUs + 90_061_000_001),
            $sql,
        );
        if ($this->text($shape) !== $this->text($other)) {
            throw new WarehouseError('A rollup cannot depend on the moment it is made: leave out now() and current_date.');
        }
        $fact = $this->fact($shape);
        $token = bin2hex(random_bytes(6));
        $columns = $shape->columns();
        // Small enough that a span of time is a small part of it, however few rows it has.
        $estimator = new Estimator();
        $rows = $estimator->rows($shape->computed([]));
        $chunkRows = (int) max(self::LEAST_ROWS, min(TableDefinition::CHUNK_ROWS, $rows / $this->warehouse->nodes / self::CHUNKS));
        $definition = new TableDefinition(
            $columns,
            $this->distribution($shape, $columns, $estimator, $rows),
            null,
            $this->clustering($columns, count($shape->groups)),
            $chunkRows,
        );
        TableStore::create("{$this->warehouse->root}/data/{$token}", $schema, $name, $definition, $this->session->nowUs);
        $rollup = new Rollup(
            $schema,
            $name,
            $sql,
            $stale,
            $token,
            0,
            "{$fact->table->schema}.{$fact->table->name}",
            basename($fact->table->directory),
            [],
            [],
            $this->session->nowUs,
            0,
        );
        try {
            return $this->bring($rollup)[0];
        } catch (\Throwable $error) {
            $this->warehouse->rollupBook()->rows($rollup)->remove();
            throw $error;
        }
    }

    /**
     * @return array{int, string} rows, what was done in words
     */
    public function refresh(Rollup $rollup): array
    {
        return $this->bring($rollup);
    }

    /**
     * @return array{int, string}
     */
    private function bring(Rollup $rollup): array
    {
        $book = $this->warehouse->rollupBook();
        $store = $book->rows($rollup);

        return $store->exclusively(function (Manifest $base) use ($rollup, $book, $store): array {
            // Another worker may have been faster.
            $rollup = $rollup->version === 0 ? $rollup : $book->rollup($rollup->schema, $rollup->name) ?? $rollup;
            $shape = Shape::of($this->warehouse, $this->session, $rollup->sql);
            $fact = $this->fact($shape, $rollup);
            $dimensions = [];
            foreach ($shape->block->scans as $scan) {
                if ($scan !== $fact) {
                    $dimensions[basename($scan->table->directory)] = $scan->manifest->version;
                }
            }
            ksort($dimensions);
            $anew =
                $rollup->version === 0 || $dimensions !== $rollup->dimensions || basename($fact->table->directory) !== $rollup->factToken;
            $segments = $anew ? [] : Freshness::of($rollup, $fact->manifest)[2];
            [$segments, $open] = $this->open($segments, $fact->manifest);
            $lost = count($rollup->segments) - count($segments);
            if ($open === [] && $lost === 0 && $rollup->version > 0) {
                return [$base->rows(), "Rollup {$rollup->path()} was up to its tables already."];
            }
            $writer = new TableWriter($store, $base, $this->warehouse->nodes);
            $made = 0;
            $tookUs = 0;
            foreach ($open as $partition => $chunks) {
                $had = count($writer->chunks());
                $manifests = [
                    $fact->table->directory => new Manifest(
                        $fact->manifest->version,
                        $fact->manifest->writtenUs,
                        $fact->manifest->definition,
                        $chunks,
                        $fact->manifest->rowsChanged,
                    ),
                ];
                $relation = $shape->computed($manifests);
                $ids = array_map(static fn ($field): int => $field->id, $relation->fields());
                $plan = $this->engine
                    ->with(new Switches([Switches::ROLLUPS]))
                    ->stream($relation, $rollup->sql, $this->session, $this->limits, static function (Batch $batch) use (
                        $writer,
                        $ids,
                    ): bool {
                        $writer->add(array_map(static fn (int $id): array => $batch->columns[$id], $ids));

                        return true;
                    });
                $writer->cut();
                $tookUs += $plan->sumUs() ?? 0;
                $segments[] = new Segment(
                    (string) $partition,
                    array_map(static fn (Chunk $chunk): string => $chunk->file, $chunks),
                    array_map(static fn (Chunk $chunk): string => $chunk->file, array_slice($writer->chunks(), $had)),
                );
                $made += count($chunks);
            }
            $kept = array_flip(array_merge([], ...array_map(static fn (Segment $segment): array => $segment->chunks, $segments)));
            $manifest = $writer->commit(
                $this->session->nowUs,
                array_values(array_filter($base->chunks, static fn (Chunk $chunk): bool => isset($kept[$chunk->file]))),
            );
            TableChanges::collect($store, [], $this->session->nowUs);
            $book->keep(
                new Rollup(
                    $rollup->schema,
                    $rollup->name,
                    $rollup->sql,
                    $rollup->stale,
                    $rollup->token,
                    $manifest->version,
                    $rollup->fact,
                    basename($fact->table->directory),
                    $dimensions,
                    $segments,
                    $rollup->createdUs,
                    $this->session->nowUs,
                ),
            );
            $written = array_sum(array_map(static fn (Chunk $chunk): int => $chunk->bytes, $writer->chunks()));
            $book->kept(
                $rollup,
                $this->session->nowUs,
                $tookUs +
                    ($written * $this->warehouse->profile->rowFactor * 1e6) /
                        $this->warehouse->profile->diskBytesPerSecond /
                        $this->warehouse->nodes,
            );

            return [
                $manifest->rows(),
                "Rollup {$rollup->path()} holds {$manifest->rows()} rows; ".
                ($anew
                    ? 'computed from all'
                    : "{$made} chunks in ".count($open).' parts of '.$rollup->fact.' were computed, the rest kept,').
                " of {$fact->manifest->rows()} rows.",
            ];
        });
    }

    /**
     * What has to be computed, by partition.
     *
     * @param  list<Segment>  $segments that hold good
     * @return array{list<Segment>, array<string, non-empty-list<Chunk>>} segments to be kept, chunks by partition
     */
    private function open(array $segments, Manifest $table): array
    {
        $apart = $table->definition->partitioning !== null && $table->partitionCount() <= self::PARTITIONS;
        $byPartition = [];
        foreach ($segments as $segment) {
            $byPartition[$segment->partition][] = $segment;
        }
        $keep = [];
        foreach ($byPartition as $list) {
            array_push($keep, ...count($list) >= self::SEGMENTS ? [] : $list);
        }
        $known = array_flip(array_merge([], ...array_map(static fn (Segment $segment): array => $segment->from, $keep)));
        $open = [];
        foreach ($table->chunks as $chunk) {
            if (! isset($known[$chunk->file])) {
                $open[$apart ? $chunk->partition : ''][] = $chunk;
            }
        }

        return [$keep, $open];
    }

    /** The table whose rows come and go: the one with most of them when the rollup was made. */
    private function fact(Shape $shape, ?Rollup $rollup = null): Scan
    {
        $best = $shape->block->scans[0];
        foreach ($shape->block->scans as $scan) {
            if ($rollup !== null && "{$scan->table->schema}.{$scan->table->name}" === $rollup->fact) {
                return $scan;
            }
            if ($scan->manifest->rows() > $best->manifest->rows()) {
                $best = $scan;
            }
        }

        return $best;
    }

    /**
     * By the group of most values, where all nodes get many of them: what is joined or grouped by it stays where it lies.
     *
     * @param  list<Column>  $columns
     */
    private function distribution(Shape $shape, array $columns, Estimator $estimator, float $rows): Distribution
    {
        $most = self::VALUES_PER_NODE * $this->warehouse->nodes;
        $best = Distribution::even();
        foreach ($shape->groups as $i => $group) {
            if (
                $group instanceof Ref &&
                ! $group->type->is(TypeKind::Date, TypeKind::Timestamp) &&
                $estimator->distinct($group, $rows) > $most
            ) {
                $most = $estimator->distinct($group, $rows);
                $best = Distribution::hash($columns[$i]->name);
            }
        }

        return $best;
    }

    /**
     * @param  list<Column>  $columns
     * @return list<string>
     */
    private function clustering(array $columns, int $groups): array
    {
        $names = [];
        foreach (array_slice($columns, 0, $groups) as $column) {
            // Spans of time are what most statements ask for.
            if ($column->type->is(TypeKind::Date, TypeKind::Timestamp)) {
                array_unshift($names, $column->name);
            } else {
                $names[] = $column->name;
            }
        }

        return $names;
    }

    private function text(Shape $shape): string
    {
        return implode('|', array_map(static fn ($e): string => $e->text(), [...$shape->groups, ...$shape->block->conditions])).
            implode('|', array_map(static fn ($part): string => $part->text(), $shape->parts));
    }
}
