<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Rollups;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Practice\Expression\Aggregate;
use Fulcrion\Practice\Expression\Constant;
use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Expression\Op;
use Fulcrion\Practice\Expression\Ref;
use Fulcrion\Practice\Logical\Aggregation;
use Fulcrion\Practice\Logical\Field;
use Fulcrion\Practice\Logical\FilterNode;
use Fulcrion\Practice\Logical\JoinNode;
use Fulcrion\Practice\Logical\RelationNode;
use Fulcrion\Practice\Logical\Rewriter;
use Fulcrion\Practice\Logical\Scan;
use Fulcrion\Practice\Logical\Union;
use Fulcrion\Practice\Sql\Session;
use Fulcrion\Practice\Storage\Manifest;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Practice\WarehouseError;

/**
 * Puts rollups in place of the tables they were made of, wherever the answer stays the same and less has to be read.
 * Every row of a rollup stands for the rows of its group; joined and filtered by what all rows of the group have in
 * common, and folded once more, the parts give what the rows would have given.
 */
final class RollupRule
{
    private const FIRST_ID = 2_000_000;

    private const IDS = 100_000;

    /** Tables of one statement that are replaced at most. */
    private const SIDES = 3;

    private int $bound = 0;

    /** @var list<string> why rollups were used or not */
    public array $remarks = [];

    /** @var list<array{Rollup, float, float}> what was used, and the modelled time and bytes it saved */
    public array $used = [];

    private readonly Canon $canon;

    public function __construct(private readonly Warehouse $warehouse, private readonly Session $session)
    {
        $this->canon = new Canon();
    }

    public function apply(RelationNode $relation): RelationNode
    {
        $rollups = $this->warehouse->rollupBook()->rollups();

        return $rollups === [] ? $relation : $this->within($relation, $rollups);
    }

    /**
     * @param  list<Rollup>  $rollups
     */
    private function within(RelationNode $relation, array $rollups): RelationNode
    {
        if ($relation instanceof Aggregation) {
            $better = null;
            // Of a join each side may have one.
            for ($next = $this->best($relation, $rollups), $times = 0; $next !== null && $times < self::SIDES; $times++) {
                $better = $next;
                $next = $better instanceof Aggregation ? $this->best($better, $rollups) : null;
            }
            if ($better !== null) {
                return $better;
            }
        }
        $inputs = array_map(fn (RelationNode $input): RelationNode => $this->within($input, $rollups), $relation->inputs());

        return $inputs === [] ? $relation : $relation->withInputs($inputs);
    }

    /**
     * @param  list<Rollup>  $rollups
     */
    private function best(Aggregation $aggregation, array $rollups): ?RelationNode
    {
        $read = self::tables($aggregation->input);
        $rollups = array_values(array_filter($rollups, static fn (Rollup $rollup): bool => isset($read[$rollup->factToken])));
        if ($rollups === []) {
            return null;
        }
        $block = Block::of($aggregation->input);
        if (is_string($block)) {
            foreach (self::groups($aggregation->input) ? [] : $rollups as $rollup) {
                $this->remarks[] = "rollup {$rollup->path()} not used: {$block}";
            }

            return null;
        }
        $whole = ReadCost::of($aggregation, $this->warehouse->profile, $this->warehouse->nodes);
        $best = null;
        foreach ($rollups as $rollup) {
            $candidate = $this->candidate($aggregation, $block, $rollup);
            if (is_string($candidate)) {
                $this->remarks[] = "rollup {$rollup->path()} not used: {$candidate}";

                continue;
            }
            [$relation, $beside] = $candidate;
            $cost = ReadCost::of($relation, $this->warehouse->profile, $this->warehouse->nodes);
            if ($cost->us >= $whole->us) {
                $this->remarks[] =
                    "rollup {$rollup->path()} not used: reading it ".
                    ($beside === [] ? '' : 'and '.implode(' and ', $beside).' ').
                    'takes no less than reading the table';
            } elseif ($best === null || $cost->us < $best[2]->us) {
                $best = [$relation, $rollup, $cost, $beside];
            }
        }
        if ($best === null) {
            return null;
        }
        [$relation, $rollup, $cost, $beside] = $best;
        $this->remarks[] =
            "rollup {$rollup->path()} used in place of {$rollup->fact}: {$cost->rows} rows read instead of {$whole->rows}".
            ($beside === [] ? '' : ', among them '.implode(' and ', $beside));
        $this->used[] = [$rollup, $whole->us - $cost->us, (float) ($whole->bytes - $cost->bytes) * $this->warehouse->profile->rowFactor];

        return $relation;
    }

    /**
     * @return array{RelationNode, list<string>}|string the relation and what is read of the table beside the rollup; or why not
     */
    private function candidate(Aggregation $aggregation, Block $block, Rollup $rollup): array|string
    {
        $scans = [];
        foreach ($block->scans as $scan) {
            if (isset($scans[$scan->table->directory])) {
                return "{$scan->table->schema}.{$scan->table->name} is read twice";
            }
            $scans[$scan->table->directory] = $scan;
        }
        try {
            $shape = Shape::of($this->warehouse, $this->session, $rollup->sql, $this->nextId());
        } catch (WarehouseError $error) {
            return lcfirst($error->getMessage());
        }
        $manifests = [];
        foreach ($shape->block->scans as $own) {
            $token = $own->table->directory;
            $scan = $scans[$token] ?? null;
            if ($scan === null) {
                return "it also joins {$own->table->schema}.{$own->table->name}, which the statement does not read";
            }
            if (basename($token) !== $rollup->factToken && ($rollup->dimensions[basename($token)] ?? 0) !== $scan->manifest->version) {
                return "{$scan->table->schema}.{$scan->table->name} was changed since it was refreshed";
            }
            $manifests[$token] = $scan->manifest;
        }
        $fact = $scans[$this->directory($rollup->factToken)] ?? null;
        if ($fact === null) {
            return "{$rollup->fact} was replaced since it was refreshed";
        }
        [$kept, $missing] = Freshness::of($rollup, $fact->manifest);
        if ($missing !== [] && $rollup->stale === Rollup::SKIP) {
            return count($missing).' chunks of '.$rollup->fact.' are newer than it is, and it is told not to be used then';
        }

        return $this->translated($aggregation, $block, $shape, $rollup, $fact, $scans, $manifests, $kept, $missing);
    }

    /**
     * @param  array<string, Scan>  $scans of the statement, by directory
     * @param  array<string, Manifest>  $manifests of the rollup's tables, by directory
     * @param  list<string>  $kept chunks of the rollup that hold good
     * @param  list<Chunk>  $missing chunks of the table it does not know
     * @return array{RelationNode, list<string>}|string
     */
    private function translated(
        Aggregation $aggregation,
        Block $block,
        Shape $shape,
        Rollup $rollup,
        Scan $fact,
        array $scans,
        array $manifests,
        array $kept,
        array $missing,
    ): array|string {
        $mine = $this->canon->names($shape->block->scans);
        $theirs = $this->canon->names($block->scans);
        $own = static fn (Expr $e): Expr => $e->substitute($mine);
        $asked = static fn (Expr $e): Expr => $e->substitute($block->computed)->substitute($theirs);

        $fields = $shape->fields();
        $groups = $expressions = [];
        foreach ($shape->groups as $i => $group) {
            $key = $own($group)->key();
            $groups[$key] = $fields[$i]->ref();
            $expressions[$key] = $own($group);
        }
        $parts = [];
        foreach (array_values($shape->parts) as $i => $part) {
            $parts[Shape::key($part->with($own))] = $fields[count($shape->groups) + $i]->ref();
        }
        $covered = array_fill_keys(array_keys($manifests), true);
        $derivation = new Derivation($groups, $expressions, fn (int $id): bool => isset($covered[$this->canon->owner($id)]));

        $held = array_map(static fn (Expr $e): string => $own($e)->key(), $shape->block->conditions);
        $conditions = [];
        $keys = $edges = [];
        foreach ($block->conditions as $condition) {
            $condition = $asked($condition);
            $keys[$condition->key()] = true;
            if (in_array($condition->key(), $held, true)) {
                continue;
            }
            $derived = $derivation->of($condition);
            $edge = $derived === null ? $derivation->edge($condition) : null;
            if ($edge !== null && ($edges === [] || (count($edges) === 1 && $edges[0]->goesWith($edge)))) {
                $edges[] = $edge;
            } elseif ($derived === null) {
                return "it does not tell {$derivation->missing($condition)} ({$condition->text()})";
            } else {
                $conditions[] = $derived;
            }
        }
        foreach ($shape->block->conditions as $i => $condition) {
            if (! isset($keys[$held[$i]])) {
                return "it only holds rows where {$condition->text()}";
            }
        }
        $newGroups = [];
        foreach ($aggregation->groups as $group) {
            $derived = $derivation->of($asked($group));
            if ($derived === null) {
                return "it is not grouped by {$derivation->missing($asked($group))}";
            }
            $newGroups[] = $derived;
        }
        $aggregates = [];
        foreach ($aggregation->aggregates as $aggregate) {
            $folded = $this->folded($aggregate->with($asked), $parts, $derivation);
            if ($folded === null) {
                return $aggregate->distinct
                    ? "{$aggregate->text()} has to be exact, and it keeps a sketch at most"
                    : "it does not keep {$aggregate->text()}";
            }
            $aggregates[] = $folded;
        }
        // Tables that are joined to the groups are called by their own names again.
        $back = $this->canon->back($block->scans);
        $relation = $this->source($shape, $fields, $rollup, $fact, $manifests, $kept, $missing, $edges);
        foreach ($scans as $directory => $scan) {
            if (! isset($covered[$directory])) {
                // Its conditions are among those of the block.
                $relation = new JoinNode(
                    JoinNode::INNER,
                    $relation,
                    new Scan($scan->table, $scan->manifest, $scan->alias, $scan->columns),
                    [],
                );
            }
        }
        $named = static fn (Expr $e): Expr => $e->substitute($back);
        $relation = new FilterNode($relation, array_map($named, $conditions));
        $relation = new Aggregation(
            $relation,
            $aggregation->groupFields,
            array_map($named, $newGroups),
            $aggregation->aggregateFields,
            array_map(static fn (Aggregate $a): Aggregate => $a->with($named), $aggregates),
        );

        $beside = [
            ...$missing === [] ? [] : ['those of '.count($missing).' chunks that came since it was refreshed'],
            ...array_map(static fn (Edge $edge): string => "those of {$edge->text()}", array_slice($edges, 0, 1)),
        ];

        return [(new Rewriter())->rewrite($relation), $beside];
    }

    /**
     * The rows of the rollup that hold good and, where there are some, the parts of what came since and of what lies at
     * the ends of a range.
     *
     * @param  list<Field>  $fields of what comes out
     * @param  array<string, Manifest>  $manifests
     * @param  list<string>  $kept
     * @param  list<Chunk>  $missing
     * @param  list<Edge>  $edges
     */
    private function source(
        Shape $shape,
        array $fields,
        Rollup $rollup,
        Scan $fact,
        array $manifests,
        array $kept,
        array $missing,
        array $edges,
    ): RelationNode {
        $store = $this->warehouse->rollupBook()->rows($rollup);
        $manifest = $store->version($rollup->version);
        $wanted = array_flip($kept);
        $chunks = array_values(array_filter($manifest->chunks, static fn (Chunk $chunk): bool => isset($wanted[$chunk->file])));
        $names = array_map(static fn (Column $column): string => $column->name, $manifest->definition->columns);
        assert(count($names) === count($fields));
        $plain = $missing === [] && $edges === [];
        $own = $plain ? $fields : $shape->fields();
        $scan = new Scan(
            $store,
            new Manifest($manifest->version, $manifest->writtenUs, $manifest->definition, $chunks, $manifest->rowsChanged),
            $rollup->name,
            $own,
        );
        if ($plain) {
            return $scan;
        }
        $inside = [];
        foreach ($fields as $i => $field) {
            $inside[$field->id] = $own[$i]->ref();
        }
        $part = function (array $chunks, array $conditions) use ($rollup, $fact, $manifests): RelationNode {
            // Each with ids of its own: they stand beside each other in one plan.
            $shape = Shape::of($this->warehouse, $this->session, $rollup->sql, $this->nextId());
            $back = $this->canon->back($shape->block->scans);
            $manifests[$fact->table->directory] = new Manifest(
                $fact->manifest->version,
                $fact->manifest->writtenUs,
                $fact->manifest->definition,
                array_values($chunks),
                $fact->manifest->rowsChanged,
            );

            return $shape->computed($manifests, array_map(static fn (Expr $e): Expr => $e->substitute($back), array_values($conditions)));
        };
        $parts = [
            $edges === []
                ? $scan
                : new FilterNode($scan, array_map(static fn (Edge $edge): Expr => $edge->inner()->substitute($inside), $edges)),
        ];
        if ($missing !== []) {
            $parts[] = $part($missing, array_map(static fn (Edge $edge): Expr => $edge->whole, $edges));
        }
        $newer = array_fill_keys(array_map(static fn (Chunk $chunk): string => $chunk->file, $missing), true);
        $known = array_values(array_filter($fact->manifest->chunks, static fn (Chunk $chunk): bool => ! isset($newer[$chunk->file])));
        foreach ($edges as $edge) {
            $parts[] = $part($known, $edge->rest());
        }

        return new Union($fields, $parts);
    }

    private function nextId(): int
    {
        return self::FIRST_ID + self::IDS * $this->bound++;
    }

    /**
     * @param  array<string, Ref>  $parts
     */
    private function folded(Aggregate $a, array $parts, Derivation $derivation): ?Aggregate
    {
        $part = static function (string $function, bool $filtered, ?Expr $of = null) use ($a, $parts): ?Ref {
            $of ??= $a->argument;
            $found = $parts["{$function}|{$of?->key()}|".($filtered ? $a->filter?->key() : '')] ?? null;
            // A count of what is never null is the count of rows.
            if ($found === null && $function === 'count' && $of !== null && ! $of->nullable) {
                return $parts['count||'.($filtered ? $a->filter?->key() : '')] ?? null;
            }

            return $found;
        };
        $outside = $a->filter === null ? null : $derivation->of($a->filter);
        // What folds already goes on from parts of another rollup.
        foreach ($a->distinct || $a->folds ? [] : ($outside === null ? [true] : [true, false]) as $filtered) {
            $first = $part(['avg' => 'sum', 'approx_count_distinct' => 'sketch'][$a->function] ?? $a->function, $filtered);
            $counts = $a->function === 'avg' ? $part('count', $filtered) : null;
            if ($first !== null && ($a->function !== 'avg' || $counts !== null)) {
                return new Aggregate($a->function, $first, false, $filtered ? null : $outside, $a->type, $a->nullable, true, $counts);
            }
        }
        $product =
            $a->filter === null || $outside !== null ? $this->product($a, $outside, $part, $parts[Shape::ROWS] ?? null, $derivation) : null;
        if ($product !== null) {
            return $product;
        }
        $argument = $a->argument === null ? null : $derivation->of($a->argument);
        if ($argument === null || ($a->filter !== null && $outside === null)) {
            return null;
        }
        // What is the same for all rows of a group need not be counted row by row where repeats make no difference.
        if ($a->distinct || in_array($a->function, ['min', 'max', 'approx_count_distinct'], true)) {
            return new Aggregate($a->function, $argument, $a->distinct, $outside, $a->type, $a->nullable, $a->folds);
        }

        return $this->times($a, $argument, $outside, $parts[Shape::ROWS] ?? null, $derivation);
    }

    /**
     * A sum of products one factor of which is the same for all rows of a group is the sum of the other, times that:
     * so a side of a join is put together after the other one was.
     *
     * @param  callable(string, bool, Expr): ?Ref  $part
     */
    private function product(Aggregate $a, ?Expr $filter, callable $part, ?Ref $rows, Derivation $derivation): ?Aggregate
    {
        if ($a->distinct || ! in_array($a->function, ['sum', 'avg', 'count'], true) || ($a->function === 'avg' && $a->counts === null)) {
            return null;
        }
        $of = function (string $function, Expr $factor, Expr $other, ColumnType $type) use ($part, $derivation): ?Expr {
            $sum = $part($function, false, $factor);
            $times = $sum === null ? null : $derivation->of($other);

            return $sum === null || $times === null ? null : new Op('mul', [$sum, $times], $type, $sum->nullable || $times->nullable);
        };
        $counted = static function (?Expr $e) use ($of, $rows, $derivation): ?Expr {
            if (
                $e instanceof Op &&
                $e->name === 'case' &&
                count($e->args) === 3 &&
                $e->args[0] instanceof Op &&
                $e->args[0]->name === 'isnull' &&
                $e->args[1] instanceof Constant &&
                $e->args[1]->value === 0
            ) {
                return $of('count', $e->args[0]->args[0], $e->args[2], $e->type);
            }
            $same = $e === null || $rows === null ? null : $derivation->of($e);

            return $same === null ? null : new Op('mul', [$same, $rows], $same->type, $same->nullable);
        };
        if ($a->function === 'count') {
            $count = $a->folds ? $counted($a->argument) : null;

            return $count === null ? null : new Aggregate('count', $count, false, $filter, $a->type, $a->nullable, true);
        }
        $e = $a->argument;
        if (! ($e instanceof Op) || $e->name !== 'mul') {
            return null;
        }
        $type = $a->function === 'sum' ? $a->type : $e->type;
        $sum = $of('sum', $e->args[0], $e->args[1], $type) ?? $of('sum', $e->args[1], $e->args[0], $type);
        $counts = $a->counts === null ? null : $counted($a->counts);

        return $sum === null || ($a->counts !== null && $counts === null)
            ? null
            : new Aggregate($a->function, $sum, false, $filter, $a->type, $a->nullable, $a->folds, $counts);
    }

    /** A sum of what is the same for all rows of a group is as often that as the group has rows. */
    private function times(Aggregate $a, Expr $argument, ?Expr $filter, ?Ref $rows, Derivation $derivation): ?Aggregate
    {
        if ($rows === null || ! in_array($a->function, ['sum', 'avg', 'count'], true)) {
            return null;
        }
        $whole = ColumnType::of(TypeKind::Bigint);
        $multiplied = static fn (Expr $e, ColumnType $type): Expr => new Op('mul', [$e, $rows], $type, $e->nullable);
        if ($a->folds) {
            $counts = $a->counts === null ? null : $derivation->of($a->counts);

            return $a->counts !== null && $counts === null
                ? null
                : new Aggregate(
                    $a->function,
                    $multiplied($argument, $argument->type),
                    false,
                    $filter,
                    $a->type,
                    $a->nullable,
                    true,
                    $counts === null ? null : $multiplied($counts, $whole),
                );
        }
        $there = new Op(
            'case',
            [new Op('isnull', [$argument], ColumnType::of(TypeKind::Boolean), false), Constant::whole(0), $rows],
            $whole,
            false,
        );
        $sum = $multiplied(
            $argument,
            $a->function === 'avg' && $argument->type->is(TypeKind::Decimal)
                ? ColumnType::decimal(ColumnType::MOST_DIGITS, $argument->type->scale)
                : ($a->function === 'sum'
                    ? $a->type
                    : $argument->type),
        );

        return match ($a->function) {
            'count' => new Aggregate('count', $there, false, $filter, $a->type, $a->nullable, true),
            'avg' => new Aggregate('avg', $sum, false, $filter, $a->type, $a->nullable, true, $there),
            default => new Aggregate('sum', $sum, false, $filter, $a->type, $a->nullable),
        };
    }

    private function directory(string $token): string
    {
        return "{$this->warehouse->root}/data/{$token}";
    }

    /** Whether there is another grouping below, which is looked at by itself. */
    private static function groups(RelationNode $relation): bool
    {
        foreach ($relation->inputs() as $input) {
            if ($input instanceof Aggregation || self::groups($input)) {
                return true;
            }
        }

        return $relation instanceof Aggregation;
    }

    /**
     * @return array<string, true> tokens of the tables read
     */
    private static function tables(RelationNode $relation): array
    {
        if ($relation instanceof Scan) {
            return [basename($relation->table->directory) => true];
        }
        $tables = [];
        foreach ($relation->inputs() as $input) {
            $tables += self::tables($input);
        }

        return $tables;
    }
}
