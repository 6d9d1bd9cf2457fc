<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rollups;

use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Storage\Estate;
use Fulcrion\Core\Storage\Sample;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Storage\TableUse;

/**
 * Which rollups of a table are worth having.
 */
final readonly class RollupAdvisor
{
    /** Statements that group whose needs are put together pair by pair. */
    private const PAIRS = 40;

    private const MOST = 600;

    /** What an answer takes however few rows it reads. */
    private const FIXED_US = 2_000.0;

    /** Rows of the sample groups are counted in. */
    private const SAMPLE = 1000;

    private AggregateReader $reader;

    public function __construct(private Estate $estate)
    {
        $types = [];
        foreach ($estate->tables as $name => $table) {
            foreach ($table->definition->columns as $column) {
                $types[$name][$column->name] = $column->type;
            }
        }
        $this->reader = new AggregateReader($types);
    }

    /**
     * @return array{list<AggregateUse>, array<string,
     *     list<string>>} what could be answered from rollups of the table; statements that could not, by reason
     */
    public function uses(TableLayout $table): array
    {
        $uses = $not = [];
        $model = $this->estate->reads($table);
        foreach ($this->estate->workload->touching($table->name)->statements as $statement) {
            foreach ($this->reader->read($statement->sql, $statement->schema, $statement->id, $statement->executions) as $use) {
                if (is_string($use)) {
                    $not[$use][] = $statement->id;
                } elseif ($use->table === $table->name) {
                    $read = $statement->of($table->name);
                    $share = $read === null ? 1.0 : $model->share($read);
                    $uses[] = new AggregateUse(
                        $use->statement,
                        $use->executions,
                        $use->table,
                        $use->dimensions,
                        $use->measures,
                        $use->joined,
                        $read === null ? 0.0 : $model->us($read, $share),
                        $read === null ? 0.0 : $model->bytes($read, $share),
                        $read === null ? 1.0 : self::span($table, $read, $use),
                    );
                }
            }
        }

        return [$uses, $not];
    }

    public function of(
        TableLayout $table,
        ?Sample $sample,
        float $budgetBytes,
        float $keepBudgetUs = INF,
        float $leastUs = 0.0,
    ): RollupAdvice {
        [$uses, $not] = $this->uses($table);
        $candidates = $this->candidates($table, $uses, $sample?->thinned(self::SAMPLE));
        $base = $this->base($table, $uses);
        $weights = array_map(static fn (AggregateUse $use): float => $use->executions, $uses);

        return new RollupAdvice(
            $table,
            $uses,
            $not,
            $candidates,
            $base,
            $weights,
            Choice::of($base, $weights, $candidates, $budgetBytes, $keepBudgetUs, $leastUs),
        );
    }

    /**
     * What each use costs as it is, with the rollups there are.
     *
     * @param  list<AggregateUse>  $uses
     * @return list<float>
     */
    private function base(TableLayout $table, array $uses): array
    {
        $base = array_map(static fn (AggregateUse $use): float => $use->readUs, $uses);
        $lattice = new Lattice((float) $table->rows(), []);
        foreach ($table->uses->rollups as $there) {
            foreach ($this->reader->read($there['sql'], '', '', 0.0) as $own) {
                if (is_string($own)) {
                    continue;
                }
                $mask = $lattice->mask($own->dimensions);
                foreach ($uses as $i => $use) {
                    $need = $lattice->need($use->dimensions);
                    if (
                        $mask !== null &&
                        $need !== null &&
                        ($mask & $need) === $need &&
                        array_diff($use->measures, $own->measures) === []
                    ) {
                        $base[$i] = min(
                            $base[$i],
                            self::FIXED_US +
                                ($use->share *
                                    ($there['rows'] * $this->estate->rates->usPerRow +
                                        $there['bytes'] * $this->estate->rates->usPerByteRead)) /
                                    max(1, $table->nodes),
                        );
                    }
                }
            }
        }

        return array_values($base);
    }

    /**
     * Nodes of the lattice that are asked for, and those that answer two of the heavier ones at once.
     *
     * @param  list<AggregateUse>  $uses
     * @return list<Candidate>
     */
    public function candidates(TableLayout $table, array $uses, ?Sample $sample): array
    {
        $sets = $load = [];
        foreach ($uses as $use) {
            $set = Lattice::union($use->dimensions, []);
            $key = implode(',', array_map(static fn (Dimension $d): string => $d->key(), $set));
            if ($set !== []) {
                $sets[$key] = $set;
                $load[$key] = ($load[$key] ?? 0.0) + $use->executions * $use->readUs;
            }
        }
        arsort($load);
        $heavy = array_slice(array_keys($load), 0, self::PAIRS);
        foreach ($heavy as $i => $a) {
            foreach (array_slice($heavy, $i + 1) as $b) {
                $union = Lattice::union($sets[$a], $sets[$b]);
                $sets[implode(',', array_map(static fn (Dimension $d): string => $d->key(), $union))] ??= $union;
            }
        }
        $lattice = new Lattice((float) $table->rows(), $this->distinct($table), $sample);
        $needs = array_map(static fn (AggregateUse $use): ?int => $lattice->need($use->dimensions), $uses);
        $rates = $this->estate->rates;
        $candidates = [];
        $tableBytes = max(1, $table->bytes());
        $weekly = $this->weeklyShare($table);
        foreach (array_slice($sets, 0, self::MOST) as $set) {
            $mask = $lattice->mask($set);
            if ($mask === null) {
                continue;
            }
            $answers = $measures = [];
            foreach ($needs as $i => $need) {
                if ($need !== null && ($mask & $need) === $need) {
                    $answers[] = $i;
                    $measures += array_flip($uses[$i]->measures);
                }
            }
            $rows = $lattice->rows($set);
            // Half a table is no rollup.
            if ($rows > $table->rows() / 2 || $answers === []) {
                continue;
            }
            $bytes = $rows * (2.0 * count($set) + 6.0 * (1 + 1.5 * count($measures)));
            $timed = array_filter($set, static fn (Dimension $d): bool => $d->unit !== '') !== [];
            $costs = [];
            foreach ($answers as $i) {
                $share = $timed ? $uses[$i]->share : 1.0;
                $costs[$i] =
                    self::FIXED_US + ($share * ($rows * $rates->usPerRow + $bytes * $rates->usPerByteRead)) / max(1, $table->nodes);
            }
            $keep =
                ($weekly * ($table->rows() * $rates->usPerRow + ($tableBytes + 2 * $bytes) * $rates->usPerByteRead)) /
                max(1, $table->nodes);
            $candidates[] = new Candidate($set, $rows, $bytes, $costs, $keep);
        }

        return $candidates;
    }

    /** Share of the table that comes in a week, from the span of the moment it is partitioned by; all of it where none is known. */
    private function weeklyShare(TableLayout $table): float
    {
        $days = 0.0;
        foreach ($table->definition->columns as $i => $column) {
            if ($column->type->is(TypeKind::Timestamp)) {
                [$least, $most] = self::ends($table, $i);
                $days = max($days, ($most - $least) / 86_400e6);
            }
        }

        return $days < 7 ? 1.0 : 7 / $days;
    }

    /**
     * @return array<string, float>
     */
    private function distinct(TableLayout $table): array
    {
        $distinct = [];
        foreach ($table->definition->columns as $i => $column) {
            $distinct[$column->name] = (float) ($table->statistics->columns[$column->name]['distinct'] ?? 100);
            if ($column->type->is(TypeKind::Timestamp)) {
                [$least, $most] = self::ends($table, $i);
                $distinct["{$column->name}@"] = max(0.0, ($most - $least) / 1e6);
                $distinct[$column->name] = isset($table->statistics->columns[$column->name])
                    ? $distinct[$column->name]
                    : (float) $table->rows();
            }
        }

        return $distinct;
    }

    /**
     * @return array{float, float} least and greatest value of a column
     */
    private static function ends(TableLayout $table, int $column): array
    {
        $least = INF;
        $most = -INF;
        foreach ($table->chunks as $chunk) {
            $zone = $chunk->zones[$column];
            if (is_int($zone->min) && is_int($zone->max)) {
                $least = min($least, $zone->min);
                $most = max($most, $zone->max);
            }
        }

        return $least > $most ? [0.0, 0.0] : [(float) $least, (float) $most];
    }

    /** Share of the span of the table's moments a statement asks for. */
    private static function span(TableLayout $table, TableUse $read, AggregateUse $use): float
    {
        $share = 1.0;
        foreach ($read->predicates as $predicate) {
            $number = $table->definition->index($predicate->column);
            if (
                $number < 0 ||
                ! $predicate->known ||
                ! $table->definition->columns[$number]->type->is(TypeKind::Timestamp) ||
                array_filter($use->dimensions, static fn (Dimension $d): bool => $d->column === $predicate->column) === []
            ) {
                continue;
            }
            [$least, $most] = self::ends($table, $number);
            $low = max($least, is_int($predicate->low) ? $predicate->low : $least);
            $high = min($most, is_int($predicate->high) ? $predicate->high : $most);
            $share = min($share, $most > $least ? max(0.02, ($high - $low) / ($most - $least)) : 1.0);
        }

        return min(1.0, $share);
    }
}
