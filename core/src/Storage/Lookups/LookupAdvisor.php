<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Lookups;

use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Storage\Estate;
use Fulcrion\Core\Storage\JoinUse;
use Fulcrion\Core\Storage\Predicate;
use Fulcrion\Core\Storage\Sample;
use Fulcrion\Core\Storage\StatementUse;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Storage\TableUse;

/**
 * Which dimensions are joined by one key for few of their columns, so that a map of key to values in the memory of
 * every node could stand in for the join.
 */
final readonly class LookupAdvisor
{
    /** Statistics count distinct values within some percent. */
    private const UNIQUE = 0.95;

    /** Share of the rows a range of a column is taken to keep. */
    private const RANGE = 0.3;

    private const MOST_COLUMNS = 6;

    public function __construct(private Estate $estate)
    {
    }

    /** Null where there is nothing to gain, or a lookup keeps all that is asked for. */
    public function of(TableLayout $table, ?Sample $sample = null): ?LookupProposal
    {
        $byKey = [];
        foreach ($this->estate->workload->touching($table->name)->statements as $statement) {
            $uses = array_values(array_filter($statement->tables, static fn (TableUse $use): bool => $use->table === $table->name));
            if (count($uses) !== 1 || $uses[0]->writes || $uses[0]->joins === []) {
                continue;
            }
            $keys = array_values(array_unique(array_map(static fn (JoinUse $join): string => $join->column, $uses[0]->joins)));
            if (count($keys) === 1) {
                $byKey[$keys[0]][] = [$statement, $uses[0]];
            }
        }
        $best = null;
        foreach ($byKey as $key => $list) {
            $proposal = $this->isUnique($table, strval($key), $sample) ? $this->proposal($table, strval($key), $list) : null;
            if ($proposal !== null && ($best === null || $proposal->savedUs > $best->savedUs)) {
                $best = $proposal;
            }
        }

        return $best;
    }

    /** As far as statistics tell, or where there are none a sample without repeats. */
    private function isUnique(TableLayout $table, string $key, ?Sample $sample): bool
    {
        $distinct = $table->statistics->columns[$key]['distinct'] ?? null;
        $values =
            $distinct !== null || $sample === null
                ? []
                : array_map(static fn (int|float|string|bool|null $value): string => (string) $value, $sample->column($key));

        return $distinct !== null
            ? $distinct >= self::UNIQUE * $table->rows()
            : $values !== [] && count(array_unique($values)) === count($values);
    }

    /**
     * @param  list<array{StatementUse, TableUse}>  $list
     */
    private function proposal(TableLayout $table, string $key, array $list): ?LookupProposal
    {
        $rows = $table->rows();
        $type = $table->definition->column($key)?->type;
        if ($rows === 0 || $type === null || $type->is(TypeKind::Double, TypeKind::Boolean)) {
            return null;
        }
        $columns = [$key => true];
        foreach ($list as [, $use]) {
            if (count($use->columns) <= self::MOST_COLUMNS) {
                $columns += array_fill_keys($use->columns, true);
            }
        }
        $columns = array_map(strval(...), array_keys($columns));
        if (count($columns) > self::MOST_COLUMNS) {
            return null;
        }
        foreach ($table->uses->lookups as $there) {
            if ($there['key'] === $key && array_diff($columns, $there['columns']) === []) {
                return null;
            }
        }
        $saved = $bytes = $executions = 0.0;
        $served = [];
        $onlyFilters = 0;
        foreach ($list as [$statement, $use]) {
            if (array_diff($use->columns, $columns) !== []) {
                continue;
            }
            [$us, $fewer] = $this->saved($table, $statement, $use);
            $saved += $statement->executions * $us;
            $bytes += $statement->executions * $fewer;
            $executions += $statement->executions;
            $served[] = $statement->id;
            $onlyFilters += $use->filtered() !== [] ? 1 : 0;
        }
        $width = 16.0;
        foreach ($columns as $name) {
            $width += $table->definition->column($name)?->type->is(TypeKind::Text) === true ? 16 : 8;
        }

        return $served === []
            ? null
            : new LookupProposal($table, $key, $columns, $served, $executions, $onlyFilters, $saved, $bytes, $width * $rows);
    }

    /**
     * What one execution would be spared: reading the dimension, and the chunks of the other table none of the wanted
     * keys can be in. A span of keys meets a chunk in about the share of the keys it covers and the chunk spans.
     *
     * @return array{float, float} modelled time, stored bytes
     */
    private function saved(TableLayout $table, StatementUse $statement, TableUse $use): array
    {
        $model = $this->estate->reads($table);
        $us = $model->us($use, 1.0);
        $bytes = $model->bytes($use, 1.0);
        $kept = $this->kept($table, $use);
        foreach ($kept < 1.0 ? $use->joins : [] as $join) {
            $other = $this->estate->tables[$join->otherTable] ?? null;
            $theirs = $statement->of($join->otherTable);
            if ($other === null || $theirs === null) {
                continue;
            }
            $model = $this->estate->reads($other);
            $before = $model->share($theirs);
            $after = min($before, self::width($other, $join->otherColumn) + $kept);
            $us += $model->us($theirs, $before) - $model->us($theirs, $after);
            $bytes += $model->bytes($theirs, $before) - $model->bytes($theirs, $after);
        }

        return [$us, $bytes];
    }

    /** Share of the dimension its filters keep. */
    private function kept(TableLayout $table, TableUse $use): float
    {
        $kept = 1.0;
        foreach ($use->predicates as $predicate) {
            $distinct = max(1, $table->statistics->columns[$predicate->column]['distinct'] ?? 10);
            $kept *= match (true) {
                $predicate->values !== null => min(1.0, count($predicate->values) / $distinct),
                $predicate->known &&
                    $predicate->low !== null &&
                    $predicate->high !== null &&
                    Predicate::compare($predicate->low, $predicate->high) === 0 => 1 / $distinct,
                default => self::RANGE,
            };
        }

        return $kept;
    }

    /** Share of the span of a column its chunks span on average. */
    private static function width(TableLayout $table, string $column): float
    {
        $number = $table->definition->index($column);
        $least = INF;
        $most = -INF;
        $sum = $chunks = 0.0;
        foreach ($number < 0 ? [] : $table->chunks as $chunk) {
            $zone = $chunk->zones[$number];
            if ((is_int($zone->min) || is_float($zone->min)) && (is_int($zone->max) || is_float($zone->max))) {
                $least = min($least, $zone->min);
                $most = max($most, $zone->max);
                $sum += $zone->max - $zone->min;
                $chunks++;
            }
        }

        return $chunks === 0.0 || $most <= $least ? 1.0 : $sum / $chunks / ($most - $least);
    }
}
