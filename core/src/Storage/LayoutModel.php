<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Parquet\Compression;
use Fulcrion\Core\Parquet\ParquetError;
use Fulcrion\Core\Parquet\ParquetWriter;

/**
 * What a week of the workload would take if a table lay in another way: what is read, how many files are opened for it,
 * what goes between nodes, and how evenly the nodes share what comes after.
 */
final class LayoutModel
{
    /** Share of the time below which a gain is within what the model is off by. */
    public const SURE = 0.08;

    /** Statements of which every chunk is looked at; what weighs less is taken to be spread as all rows are. */
    private const LOOKED_AT = 80;

    /** Rows of the sample by which it is told how many a statement wants. */
    private const ROWS = 1_000;

    private readonly ReadModel $reads;

    private readonly Sample $few;

    private ?LayoutCost $now = null;

    /** @var array<string, LayoutCost> by how it would lie */
    private array $anew = [];

    /** @var array<string, true>|null statements */
    private ?array $heaviest = null;

    /** @var array<string, float> share of the sample's rows that meet some predicates */
    private array $selected = [];

    public function __construct(private readonly Estate $estate, public readonly TableLayout $table, public readonly Sample $sample)
    {
        $this->reads = $estate->reads($table);
        $this->few = $sample->thinned(self::ROWS);
    }

    /** As it lies. */
    public function now(): LayoutCost
    {
        return $this->now ??= $this->cost($this->table->definition->distribution, $this->reads->index(), 1.0);
    }

    /**
     * Written anew by a definition.
     *
     * @param  float  $mostPacking what a row may take at most, over what it takes now
     *
     * @throws ParquetError
     */
    public function anew(TableDefinition $definition, float $mostPacking = INF): LayoutCost
    {
        $key = serialize([
            $definition->distribution,
            $definition->partitioning,
            $definition->clustering,
            $definition->curve,
            $definition->chunkRows,
            $mostPacking,
        ]);

        return $this->anew[$key] ??= $this->cost(
            $definition->distribution,
            LayoutTrial::index($this->sample, $definition, $this->table->nodes, $this->filtered()),
            min($mostPacking, self::packing($this->table, $this->sample, $definition)),
        );
    }

    /**
     * @return list<string> columns bounds can be held against
     */
    private function filtered(): array
    {
        $filtered = [];
        foreach ($this->estate->workload->statements as $statement) {
            foreach ($statement->tables as $use) {
                foreach ($use->table === $this->table->name ? $use->predicates : [] as $predicate) {
                    $filtered[$predicate->column] = $predicate->column;
                }
            }
        }

        return array_values($filtered);
    }

    private function cost(Distribution $distribution, ChunkIndex $index, float $packing): LayoutCost
    {
        $us = $bytes = $sent = $joins = $local = 0.0;
        $each = [];
        $nodes = $this->table->nodes;
        // Joins and groups behind the reading are as uneven as the rows they are given.
        $fullest = $this->reads->index()->fullest([], $nodes, false)[0];
        $ownShare = $index->fullest([], $nodes, false)[0];
        $uneven = $distribution->kind !== Distribution::HASH || $fullest <= 0.0 ? 1.0 : max(1.0, $ownShare / $fullest);
        foreach ($this->estate->workload->statements as $statement) {
            $here = $now = 0.0;
            $touched = false;
            foreach ($statement->tables as $use) {
                if ($use->table !== $this->table->name || $use->columns === []) {
                    continue;
                }
                $touched = true;
                $here += $this->scanUs($distribution, $index, $use, $statement->id, $packing);
                [$all, $near, $moved, $most] = $this->moved($distribution, $ownShare, $use, $statement);
                $here += $most * $this->estate->rates->usPerByteSent;
                $joins += $statement->executions * $all;
                $local += $statement->executions * $near;
                $sent += $statement->executions * $moved;
                $read = $this->reads->bytes($use, $index->share($use->predicates)) * $packing;
                $bytes += $statement->executions * $read;
                $each[$statement->id] = ($each[$statement->id] ?? 0.0) + $read;
                if ($uneven > 1.0) {
                    $old = $this->table->definition->distribution;
                    $now +=
                        $this->scanUs($old, $this->reads->index(), $use, $statement->id, 1.0) +
                        $this->moved($old, $fullest, $use, $statement)[3] * $this->estate->rates->usPerByteSent;
                }
            }
            $us += $statement->executions * $here;
            if ($touched && $uneven > 1.0) {
                $us += max(0.0, $statement->durationUs - $statement->executions * $now) * ($uneven - 1.0);
            }
        }

        return new LayoutCost($us, $bytes, $sent, $joins, $local, $each, $packing);
    }

    private function scanUs(Distribution $distribution, ChunkIndex $index, TableUse $use, string $statement, float $packing): float
    {
        $whole = $distribution->kind === Distribution::COPY && $this->isReadWhole($use);
        if (isset($this->heaviest()[$statement])) {
            [$share, $chunks] = $index->fullest($use->predicates, $this->table->nodes, $whole);
        } else {
            [$most, $all] = $index->fullest([], $this->table->nodes, $whole);
            $part = $index->share($use->predicates);
            [$share, $chunks] = [$part * $most, $part * $all];
        }

        return $this->reads->scanUs($use, $share, $chunks, $packing);
    }

    /**
     * @return array<string, true> by statement
     */
    private function heaviest(): array
    {
        if ($this->heaviest === null) {
            $weights = [];
            foreach ($this->estate->workload->statements as $statement) {
                $use = $statement->of($this->table->name);
                if ($use !== null) {
                    $weights[$statement->id] = $statement->executions * $this->reads->bytes($use, $this->reads->share($use));
                }
            }
            arsort($weights);
            $this->heaviest = array_fill_keys(array_slice(array_map(strval(...), array_keys($weights)), 0, self::LOOKED_AT), true);
        }

        return $this->heaviest;
    }

    /** A copied table is divided among the nodes where it is read alone, or joined with nothing but smaller copies. */
    private function isReadWhole(TableUse $use): bool
    {
        foreach ($use->joins as $join) {
            $other = $this->estate->tables[$join->otherTable] ?? null;
            if (
                $other === null ||
                $other->definition->distribution->kind !== Distribution::COPY ||
                $this->estate->reads($other)->rows > $this->reads->rows
            ) {
                return true;
            }
        }

        return false;
    }

    /**
     * Joins and groups of one execution: how many joins, how many of them on the node, bytes sent for the rest, and how
     * many of those leave the node that sends most.
     *
     * @param  float  $ownShare of the rows on the fullest node
     * @return array{int, int, float, float}
     */
    private function moved(Distribution $distribution, float $ownShare, TableUse $use, StatementUse $statement): array
    {
        $byOther = [];
        foreach ($use->joins as $join) {
            $byOther[$join->otherTable] ??= [];
            // Values that are cast on the way do not hash alike.
            if (! $join->mismatch) {
                $byOther[$join->otherTable][$join->column] = $join->otherColumn;
            }
        }
        $nodes = $this->table->nodes;
        $away = ($nodes - 1) / max(1, $nodes);
        $rows = $this->selected($use) * $this->reads->rows;
        $mineBytes = $rows * self::width($this->table->definition, $use->columns);
        [$near, $sent, $most] = [0, 0.0, 0.0];
        foreach ($byOther as $name => $pairs) {
            $other = $this->estate->tables[$name] ?? null;
            if ($other === null) {
                $near++;

                continue;
            }
            $mine = self::fits($distribution, array_keys($pairs));
            $theirs = self::fits($other->definition->distribution, array_values($pairs));
            $together =
                $distribution->kind === Distribution::COPY ||
                $other->definition->distribution->kind === Distribution::COPY ||
                ($mine && $theirs && ($pairs[$distribution->columns[0]] ?? null) === $other->definition->distribution->columns[0]);
            if ($together) {
                $near++;

                continue;
            }
            $otherUse = $statement->of($name);
            $otherBytes =
                $this->estate->reads($other)->rows *
                ($otherUse === null ? 1.0 : $this->estate->reads($other)->share($otherUse)) *
                self::width(
                    $other->definition,
                    $otherUse->columns ?? array_map(static fn (Column $column): string => $column->name, $other->definition->columns),
                );
            $otherShare = $this->estate->reads($other)->index()->fullest([], $nodes, false)[0];
            // Either the smaller side goes to every node, or what does not lie by the keys goes where they say.
            $ways = [
                $mineBytes < $otherBytes
                    ? [$mineBytes * ($nodes - 1), $mineBytes * ($nodes - 1) * $ownShare]
                    : [$otherBytes * ($nodes - 1), $otherBytes * ($nodes - 1) * $otherShare],
                [
                    ($mine ? 0.0 : $mineBytes * $away) + ($theirs ? 0.0 : $otherBytes * $away),
                    ($mine ? 0.0 : $mineBytes * $away * $ownShare) + ($theirs ? 0.0 : $otherBytes * $away * $otherShare),
                ],
            ];
            [$bytes, $leaving] = $ways[0][0] <= $ways[1][0] ? $ways[0] : $ways[1];
            $sent += $bytes;
            $most += $leaving;
        }
        if ($use->grouped !== [] && $distribution->kind !== Distribution::COPY && ! self::fits($distribution, $use->grouped)) {
            // Each node sends what it has of each group; of how many groups there are, statistics tell.
            $groups = 1.0;
            foreach ($use->grouped as $column) {
                $groups *= $this->table->statistics->columns[$column]['distinct'] ?? 0;
            }
            $bytes = min($rows, $groups * $nodes) * self::width($this->table->definition, $use->columns) * $away;
            $sent += $bytes;
            $most += $bytes / max(1, $nodes);
        }

        return [count($byOther), $near, $sent, $most];
    }

    /** Share of the rows that meet the predicates whose values are known. */
    private function selected(TableUse $use): float
    {
        $known = array_values(array_filter($use->predicates, static fn (Predicate $p): bool => $p->known));
        $key = implode('&', array_map(static fn (Predicate $p): string => $p->signature, $known));
        if (isset($this->selected[$key])) {
            return $this->selected[$key];
        }
        $rows = $this->few->rows();
        $lists = array_map(fn (Predicate $p): array => $this->few->column($p->column), $known);
        $met = 0;
        for ($i = 0; $i < $rows; $i++) {
            foreach ($known as $k => $predicate) {
                $value = $lists[$k][$i];
                if ($value === null || ! $predicate->takes($value)) {
                    continue 2;
                }
            }
            $met++;
        }

        // At least one row: a sample says nothing of what is rarer.
        return $this->selected[$key] = $rows === 0 ? 1.0 : max($met, 1) / $rows;
    }

    /**
     * Bytes of a row on its way.
     *
     * @param  list<string>  $columns
     */
    private static function width(TableDefinition $definition, array $columns): float
    {
        $width = 0.0;
        foreach ($definition->columns as $column) {
            if (in_array($column->name, $columns, true)) {
                $width += $column->type->is(TypeKind::Text) ? 16.0 : ($column->type->is(TypeKind::Boolean) ? 1.0 : 8.0);
            }
        }

        return $width;
    }

    /**
     * @param  list<int|string>  $columns
     */
    private static function fits(Distribution $distribution, array $columns): bool
    {
        return $distribution->kind === Distribution::HASH &&
            $columns !== [] &&
            array_diff($distribution->columns, array_map(strval(...), $columns)) === [];
    }

    /**
     * Bytes a row of a sorted chunk as large as they would be over bytes a row now; measured by writing one.
     *
     * @throws ParquetError
     */
    private static function packing(TableLayout $table, Sample $sample, TableDefinition $definition): float
    {
        // Rows imagined from footers say nothing of how real ones pack.
        if ($table->engine === 'files') {
            return 1.0;
        }
        $bytesBefore = 0;
        foreach ($table->chunks as $chunk) {
            foreach ($chunk->zones as $zone) {
                $bytesBefore += $zone->bytes;
            }
        }
        $rows = min(LayoutTrial::chunkRows($sample, $definition, $table->nodes), $sample->rows());
        if ($bytesBefore === 0 || $rows === 0) {
            return 1.0;
        }
        $keys = array_map($sample->column(...), $definition->clustering);
        $order = $keys === [] ? range(0, $sample->rows() - 1) : $definition->clustering()->order($keys);
        // Neighbours in the sample are further apart than in the table, so a chunk holds as much of the range as the sample's rows do.
        $order = array_slice($order, intdiv(max(0, count($order) - $rows), 2), $rows);
        $values = array_map(static function (Column $column) use ($sample, $order): array {
            $list = $sample->column($column->name);

            return array_map(static fn (int $i): int|float|string|bool|null => $list[$i], $order);
        }, $definition->columns);
        $columns = array_map(static fn (Column $column): Column => new Column($column->name, $column->type), $definition->columns);
        $file = (new ParquetWriter(Compression::Gzip))->write($columns, $values);
        // The footer and the marks at both ends are no column's.
        /** @var array{1: int} $footer */
        $footer = unpack('V', substr($file, -8, 4));

        return max(1, strlen($file) - $footer[1] - 12) / $rows / ($bytesBefore / max(1, $table->rows()));
    }
}
