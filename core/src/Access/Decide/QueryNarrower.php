<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

use Fulcrion\Core\Access\Catalog\TableEntry;
use Fulcrion\Core\Access\Policy\ConditionError;
use Fulcrion\Core\Access\Policy\MaskKind;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Access\Policy\Privilege;
use Fulcrion\Core\Access\Policy\Subject;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Sql\Aggregates;
use Fulcrion\Core\Sql\Ast;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Names\NameScope;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Core\Sql\Tree;

/**
 * Goes through a query: what it reads and what for, what must be refused, and the query as it may be run.
 *
 * @internal
 *
 * @phpstan-type Common array<string, list<SeenColumn>>
 * @phpstan-type Relations list<array{string, list<array{string, SeenColumn}>}>
 */
final class QueryNarrower
{
    private const DEEPEST_VIEW = 16;

    /** @var list<TableRead> */
    public array $reads = [];

    public bool $changed = false;

    /** @var list<string> views whose text is being read, outermost first */
    private array $views = [];

    /** @var list<Reader> owners of these views */
    private array $owners = [];

    /** @var array<int, true> reads of the select at hand */
    private array $direct = [];

    /** @var array<string, true> tables that are closed altogether */
    private array $shutTables = [];

    /** @var list<SeenColumn> shut columns the expression at hand names, inside of a view */
    private array $shut = [];

    /** @var list<SeenColumn> columns whose values flow into the expression at hand */
    private array $flows = [];

    /** Depth of tests among the columns of a result, which tell about values as a condition does. */
    private int $tests = 0;

    private readonly StatementNeeds $needs;

    /**
     * @param  list<TableRead>  $known reads as they were found before; empty the first time
     * @param  list<Ast\Expression|null>  $rows left of each of them; null for all
     */
    public function __construct(
        private readonly Policy $policy,
        private readonly Ruling $ruling,
        private readonly string $cluster,
        string $schema,
        private readonly Dialect $dialect,
        private readonly Masking $masking,
        private readonly array $known,
        private readonly array $rows,
    ) {
        $this->needs = new StatementNeeds($ruling, $cluster, $schema);
    }

    /** Rows a group must have to be shown to whoever may see totals only. */
    public static function smallest(Policy $policy): int
    {
        return (int) $policy->document->setting(Totals::SMALLEST, (string) Totals::USUAL);
    }

    /**
     * @return array<string, SeenColumn> of a view or table
     *
     * @throws Undecidable
     * @throws SyntaxError
     */
    public function columnsOf(TableEntry $table): array
    {
        return $this->read($table, 'seen', null)[1];
    }

    /**
     * What UPDATE and DELETE look at must be seen plainly; rows that are filtered away are not touched.
     *
     * @throws Undecidable
     * @throws SyntaxError
     */
    public function change(Ast\Update|Ast\Delete $s): Ast\Statement
    {
        $path = $this->needs->path($s->table, $s->at);
        $table = $this->policy->catalog->table($path) ?? throw new Undecidable("There is no table {$path} in the catalog.", $s->at);
        $alias = strtolower($s->alias ?? $s->table[count($s->table) - 1]);
        [$read, $columns] = $this->read($table, $alias, null);
        $names = new NameScope([[$alias, self::named($columns)]]);
        $assignments = [];
        foreach ($s instanceof Ast\Update ? $s->assignments : [] as [$column, $value]) {
            $assignments[] = [$column, $this->expression($value, $names, 'filter', [])];
            $target = $columns[strtolower($column)] ?? null;
            if ($target !== null && $target->isShut()) {
                $this->name($target, 'output');
            }
        }
        $where = $s->where === null ? null : $this->expression($s->where, $names, 'filter', []);
        foreach ($read->uses as $column => $_) {
            $access = $read->access->columns[$column];
            if ($access->sight === Sight::Masked) {
                $message = "A change cannot depend on {$path}.{$column}, which is masked for {$this->ruling->who()}.";
                $this->ruling->refuse(new Refusal(Refusal::MASKED_USE, ObjectPath::child($path, $column), $message, $access->causes));
            }
        }
        $rows = $this->rows[$read->index] ?? null;
        if ($rows !== null) {
            $this->changed = true;
            // Rows that are not there for the reader go first: an error of the reader's own condition must not tell of them.
            $where = $where === null ? $rows : new Ast\Binary($where->at, 'AND', $rows, $where);
        }

        return $s instanceof Ast\Update
            ? new Ast\Update($s->at, $s->table, $s->alias, $assignments, $where)
            : new Ast\Delete($s->at, $s->table, $s->alias, $where);
    }

    /**
     * @param  NameScope<SeenColumn>|null  $outer
     * @param  Common  $common named queries in force
     * @param  list<array{string, ColumnType}>|null  $as names and types its columns get, inside of a view
     * @return array{Ast\Query, list<SeenColumn>}
     *
     * @throws Undecidable
     * @throws SyntaxError
     */
    public function query(Ast\Query $q, ?NameScope $outer, array $common, ?array $as = null): array
    {
        if ($q->recursive) {
            throw new Undecidable('WITH RECURSIVE cannot be decided: which rows it reads is known only while it runs.', $q->at);
        }
        $with = [];
        foreach ($q->with as $table) {
            [$inner, $columns] = $this->query($table->query, null, $common);
            $with[] = new Ast\CommonTable($table->at, $table->name, $table->columns, $inner);
            $common[strtolower($table->name)] = self::renamed($columns, $table->columns);
        }
        [$body, $columns, $names] = $this->body($q->body, $outer, $common, $as);
        $order = $this->orderBy($q->orderBy, $columns, $names ?? new NameScope([], $outer), $common);

        return [new Ast\Query($q->at, $with, false, $body, $order, $q->limit, $q->offset), $columns];
    }

    /**
     * @param  list<Ast\SortKey>  $keys
     * @param  list<SeenColumn>  $columns of the result
     * @param  NameScope<SeenColumn>  $names of the select that is ordered
     * @param  Common  $common
     * @return list<Ast\SortKey>
     */
    private function orderBy(array $keys, array $columns, NameScope $names, array $common): array
    {
        $order = [];
        $aliases = array_map(static fn (SeenColumn $column): string => $column->name, $columns);
        foreach ($keys as $key) {
            $value = $key->value;
            $meant = $columns[NameScope::ordered($value, $aliases) ?? -1] ?? null;
            if ($meant !== null) {
                $this->maskedUse($meant, 'order');
                $meant->read?->use($meant->base, 'order');
            } elseif (! ($value instanceof Ast\NumberLiteral)) {
                $value = $this->expression($value, $names, 'order', $common, $aliases);
            }
            $order[] = new Ast\SortKey($key->at, $value, $key->descending, $key->nullsFirst);
        }

        return $order;
    }

    /**
     * @param  list<SeenColumn>  $columns
     * @param  list<string>  $names
     * @return list<SeenColumn>
     */
    private static function renamed(array $columns, array $names): array
    {
        $all = [];
        foreach ($columns as $i => $column) {
            $all[] = $column->fromInside()->called($names[$i] ?? $column->name);
        }

        return $all;
    }

    /**
     * @param  NameScope<SeenColumn>|null  $outer
     * @param  Common  $common
     * @param  list<array{string, ColumnType}>|null  $as
     * @return array{Ast\QueryBody, list<SeenColumn>, NameScope<SeenColumn>|null} the last of a plain select
     *
     * @throws Undecidable
     * @throws SyntaxError
     */
    private function body(Ast\QueryBody $body, ?NameScope $outer, array $common, ?array $as): array
    {
        if ($body instanceof Ast\Select) {
            return $this->select($body, $outer, $common, $as);
        }
        if ($body instanceof Ast\NestedQuery) {
            [$query, $columns] = $this->query($body->query, $outer, $common, $as);

            return [new Ast\NestedQuery($body->at, $query), $columns, null];
        }
        if ($body instanceof Ast\SetOperation) {
            [$left, $a] = $this->body($body->left, $outer, $common, $as);
            [$right, $b] = $this->body($body->right, $outer, $common, $as);
            if (! $body->all || $body->operator !== 'UNION') {
                $this->compared([...$a, ...$b], 'group');
            }
            $columns = [];
            foreach ($a as $i => $column) {
                $other = $b[$i] ?? null;
                $columns[] =
                    $other === null
                        ? $column
                        : new SeenColumn(
                            $column->name,
                            $column->access->and($other->access),
                            [...$column->from, ...$other->from],
                            null,
                            null,
                            $column->type,
                        );
            }

            return [new Ast\SetOperation($body->at, $body->operator, $body->all, $left, $right), $columns, null];
        }
        if ($body instanceof Ast\ValuesList) {
            return [...$this->values($body, $outer, $common), null];
        }
        throw new Undecidable('This query cannot be decided.', $body->at);
    }

    /**
     * @param  NameScope<SeenColumn>|null  $outer
     * @param  Common  $common
     * @return array{Ast\ValuesList, list<SeenColumn>}
     *
     * @throws SyntaxError
     */
    private function values(Ast\ValuesList $body, ?NameScope $outer, array $common): array
    {
        $rows = $columns = [];
        foreach ($body->rows as $row) {
            $mapped = [];
            foreach ($row as $i => $e) {
                [$value, $flows, $shut] = $this->item($e, new NameScope([], $outer), $common);
                $mapped[] = $shut === [] ? $value : $this->none(null);
                $this->changed = $this->changed || $shut !== [];
                $columns[$i] = self::flowing('column'.($i + 1), [...$columns[$i] ?? [], ...$flows]);
            }
            $rows[] = $mapped;
        }
        $seen = [];
        foreach ($columns as $i => $flows) {
            $seen[] = self::flowing('column'.($i + 1), $flows)[0];
        }

        return [new Ast\ValuesList($body->at, $rows), $seen];
    }

    /**
     * One column into which others flow.
     *
     * @param  list<SeenColumn>  $flows
     * @return array{SeenColumn}
     */
    private static function flowing(string $name, array $flows): array
    {
        $access = array_reduce(
            $flows,
            static fn (ColumnAccess $all, SeenColumn $one): ColumnAccess => $all->and($one->access),
            new ColumnAccess(Sight::Visible),
        );
        $from = array_values(array_unique(array_merge([], ...array_map(static fn (SeenColumn $one): array => $one->from, $flows))));

        return [new SeenColumn($name, $access, $from)];
    }

    /**
     * @param  NameScope<SeenColumn>|null  $outer
     * @param  Common  $common
     * @param  list<array{string, ColumnType}>|null  $as
     * @return array{Ast\Select, list<SeenColumn>, NameScope<SeenColumn>}
     *
     * @throws Undecidable
     * @throws SyntaxError
     */
    private function select(Ast\Select $s, ?NameScope $outer, array $common, ?array $as): array
    {
        $around = $this->direct;
        [$from, $relations, $merged, $direct] = $this->from($s->from, $outer, $common);
        $names = new NameScope($relations, $outer, $merged);
        if ($s->where !== null) {
            AskedValues::note($s->where, $names);
        }
        $aggregated = $s->groupBy !== [] || Aggregates::in([$s->items, $s->having, $s->qualify]) !== [];
        foreach (array_keys($direct) as $i) {
            $this->reads[$i]->aggregated = $aggregated;
            $this->reads[$i]->shows = $aggregated ? Totals::shows($s, $names, $this->reads[$i]) : null;
            $this->reads[$i]->joined = count($relations) > 1;
        }
        $where = $s->where === null ? null : $this->expression($s->where, $names, 'filter', $common);
        [$items, $columns] = $this->items($s->items, $names, $common, $as);
        if ($s->distinct) {
            $this->compared($columns, 'group');
        }
        $aliases = [];
        foreach ($s->items as $item) {
            array_push($aliases, ...$item->alias === null ? [] : [strtolower($item->alias)]);
        }
        $groups = [];
        foreach ($s->groupBy as $e) {
            $meant = $names->grouped($e, $s->items) ?? $e;
            $mapped = $this->expression($meant, $names, 'group', $common, $aliases);
            $groups[] = $meant === $e ? $mapped : $e;
        }
        $having = $s->having === null ? null : $this->expression($s->having, $names, 'filter', $common, $aliases);
        $having = $this->enough($having, $direct);
        $qualify = $s->qualify === null ? null : $this->expression($s->qualify, $names, 'filter', $common, $aliases);
        $windows = [];
        foreach ($s->windows as $name => $over) {
            $mapped = $this->inside($over, $names, 'group', $common, $aliases);
            assert($mapped instanceof Ast\Over);
            $windows[$name] = $mapped;
        }
        $this->direct = $around;

        return [
            new Ast\Select($s->at, $s->distinct, $items, $from, $where, $groups, $s->grouping, $having, $qualify, $windows),
            $columns,
            $names,
        ];
    }

    /**
     * @param  NameScope<SeenColumn>|null  $outer
     * @param  Common  $common
     * @return array{Ast\Relation|null, Relations, array<string, list<SeenColumn>>, array<int,
     *     true>} the last are the reads that stand in it directly
     *
     * @throws Undecidable
     * @throws SyntaxError
     */
    private function from(?Ast\Relation $relation, ?NameScope $outer, array $common): array
    {
        $this->direct = [];
        $from = $relation === null ? [null, [], []] : $this->relation($relation, $outer, $common);

        return [...$from, $this->direct];
    }

    /**
     * HAVING that leaves out groups too small to be totals.
     *
     * @param  array<int, true>  $direct
     */
    private function enough(?Ast\Expression $having, array $direct): ?Ast\Expression
    {
        $smallest = self::smallest($this->policy);
        foreach ($smallest < 2 ? [] : array_keys($direct) as $i) {
            if (($this->known[$i] ?? null)?->grouped === true) {
                $this->changed = true;
                $enough = Totals::enough($this->reads[$i], $smallest);
                $having = $having === null ? $enough : new Ast\Binary($having->at, 'AND', $enough, $having);
            }
        }

        return $having;
    }

    /**
     * @param  list<SeenColumn>  $columns whose values are compared with others
     */
    private function compared(array $columns, string $for): void
    {
        foreach ($columns as $column) {
            $this->maskedUse($column, $for);
            $column->read?->use($column->base, $for);
        }
    }

    /**
     * @param  list<Ast\SelectItem>  $items
     * @param  NameScope<SeenColumn>  $names
     * @param  Common  $common
     * @param  list<array{string, ColumnType}>|null  $as
     * @return array{list<Ast\SelectItem>, list<SeenColumn>}
     *
     * @throws Undecidable
     * @throws SyntaxError
     */
    private function items(array $items, NameScope $names, array $common, ?array $as): array
    {
        $inView = $this->views !== [];
        $out = $columns = [];
        foreach ($items as $item) {
            if ($item->value instanceof Ast\Star) {
                foreach ($this->star($item->value, $names) as [$alias, $column]) {
                    $columns[] = $column;
                    if ($inView) {
                        // Spelled out, so that a hidden column leaves a gap and the others keep their places.
                        $value = $column->isShut()
                            ? $this->none($column->type)
                            : new Ast\ColumnName($item->at, $alias === '' ? [$column->name] : [$alias, $column->name]);
                        $out[] = new Ast\SelectItem($item->at, $value, $as[count($columns) - 1][0] ?? $column->name);
                    }
                }
                if (! $inView) {
                    $out[] = $item;
                }

                continue;
            }
            [$value, $flows, $shut] = $this->item($item->value, $names, $common);
            $plain = $item->value instanceof Ast\ColumnName && count($flows) === 1 ? $flows[0] : null;
            $name = strtolower(
                $item->alias ?? ($item->value instanceof Ast\ColumnName ? $item->value->parts[count($item->value->parts) - 1] : ''),
            );
            [$one] = self::flowing($name, $flows);
            $type = $as[count($columns)][1] ?? $plain?->type;
            $access = $one->access;
            if ($shut !== []) {
                $this->changed = true;
                $access = new ColumnAccess(Sight::Hidden, null, array_map($this->through(...), $shut));
                $value = $this->none($type);
            }
            $columns[] = new SeenColumn($name, $access, $one->from, $plain?->read, $plain?->base, $type);
            $out[] = new Ast\SelectItem($item->at, $value, $as === null ? $item->alias : $as[count($columns) - 1][0] ?? $item->alias);
        }

        return [$out, $columns];
    }

    private function through(SeenColumn $column): Cause
    {
        $whose = $this->whose($column);
        $causes =
            implode(', ', array_map(strval(...), $column->access->causes)).
            ($whose === '' ? '' : ' for '.Subject::show($whose).', who owns the view');

        return new Cause(Cause::LINEAGE, $column->name, $column->from[0] ?? $column->name, $causes);
    }

    /** To whom a column below a view is closed, where that is its owner and not who asks; "" otherwise. */
    private function whose(SeenColumn $column): string
    {
        $read = $column->read;
        if ($read === null || $read->owner === null) {
            return '';
        }
        $byRules = $this->ruling->reader->tableByRules($read->access->table)->columns[$column->base]->sight ?? Sight::Visible;

        return in_array($byRules, [Sight::Hidden, Sight::Denied], true) ? '' : $read->owner->subject;
    }

    /**
     * What stands in the place of a hidden column.
     *
     * @throws SyntaxError
     */
    private function none(?ColumnType $type): Ast\Expression
    {
        return $type === null ? new Ast\NullLiteral(0) : $this->masking->none($type);
    }

    /**
     * @param  NameScope<SeenColumn>  $names
     * @param  Common  $common
     * @return array{Ast\Expression, list<SeenColumn>, list<SeenColumn>} what flows into it, and the shut columns it names, inside of a view
     */
    private function item(Ast\Expression $e, NameScope $names, array $common): array
    {
        [$shut, $flows] = [$this->shut, $this->flows];
        $this->shut = $this->flows = [];
        $value = $this->expression($e, $names, 'output', $common);
        $mine = [$this->flows, $this->shut];
        $this->shut = $shut;
        $this->flows = [...$flows, ...$mine[0]];

        return [$value, ...$mine];
    }

    /**
     * What a * stands for. Hidden columns are left out and it is said; a denied one refuses the whole.
     *
     * @param  NameScope<SeenColumn>  $names
     * @return list<array{string, SeenColumn}> alias, column
     *
     * @throws Undecidable
     */
    private function star(Ast\Star $star, NameScope $names): array
    {
        $found =
            $names->star($star->qualifier) ??
            throw new Undecidable(
                $star->qualifier === []
                    ? 'SELECT * needs a FROM.'
                    : 'There is no '.implode('.', $star->qualifier).' here whose columns * could mean.',
                $star->at,
            );
        $all = [];
        foreach ($found as [$alias, $name, $column]) {
            $others = $alias === '' ? $names->merged[$name] : [$column];
            foreach ($others as $one) {
                if ($one->read !== null) {
                    $one->read->star = true;
                }
            }
            if ($this->views === [] && $column->access->sight === Sight::Hidden) {
                $this->ruling->note(
                    "left {$column->from[0]}",
                    "* leaves out {$column->from[0]}: ".implode(', ', array_map(strval(...), $column->access->causes)).'.',
                );

                continue;
            }
            if ($this->views === [] || ! $column->isShut()) {
                $this->name($column, 'output');
            }
            $all[] = [$alias, $column];
        }

        return $all;
    }

    /**
     * @param  NameScope<SeenColumn>|null  $outer
     * @param  Common  $common
     * @return array{Ast\Relation, Relations, array<string, list<SeenColumn>>} the last are columns shared through USING
     *
     * @throws Undecidable
     * @throws SyntaxError
     */
    private function relation(Ast\Relation $r, ?NameScope $outer, array $common): array
    {
        if ($r instanceof Ast\TableName) {
            return [...$this->table($r, $common), []];
        }
        if ($r instanceof Ast\DerivedTable) {
            [$query, $columns] = $this->query($r->query, $r->lateral ? $outer : null, $common);

            return [
                new Ast\DerivedTable($r->at, $query, $r->alias, $r->columns, $r->lateral),
                [[strtolower($r->alias), self::named(self::renamed($columns, $r->columns))]],
                [],
            ];
        }
        if ($r instanceof Ast\Join) {
            return $this->join($r, $outer, $common);
        }
        throw new Undecidable('What a table function reads cannot be decided.', $r->at);
    }

    /**
     * @param  array<SeenColumn>  $columns
     * @return list<array{string, SeenColumn}>
     */
    private static function named(array $columns): array
    {
        return array_map(static fn (SeenColumn $column): array => [$column->name, $column], array_values($columns));
    }

    /**
     * @param  NameScope<SeenColumn>|null  $outer
     * @param  Common  $common
     * @return array{Ast\Relation, Relations, array<string, list<SeenColumn>>}
     *
     * @throws Undecidable
     * @throws SyntaxError
     */
    private function join(Ast\Join $r, ?NameScope $outer, array $common): array
    {
        [$left, $a, $mergedA] = $this->relation($r->left, $outer, $common);
        $lateral = $r->right instanceof Ast\DerivedTable && $r->right->lateral;
        [$right, $b, $mergedB] = $this->relation($r->right, $lateral ? new NameScope($a, $outer, $mergedA) : $outer, $common);
        [$ofLeft, $ofRight] = [new NameScope($a, null, $mergedA), new NameScope($b, null, $mergedB)];
        $using = $r->using;
        if ($r->natural) {
            // By all columns there are: one that is hidden must not silently drop out of the condition.
            $using = array_values(array_unique(array_intersect(self::columnNames($a), self::columnNames($b))));
        }
        $merged = $mergedA + $mergedB;
        foreach ($using as $name) {
            $both = [...$ofLeft->here([$name]), ...$ofRight->here([$name])];
            foreach ($both as $column) {
                $this->name($column, 'join');
            }
            // Of a right join the right side's value is shown.
            $merged[strtolower($name)] = $r->kind === Ast\JoinKind::Right ? array_reverse($both) : $both;
        }
        $all = [...$a, ...$b];
        if ($r->on !== null && $r->kind !== Ast\JoinKind::Full) {
            // ON of an outer join leaves no row of the kept side away.
            AskedValues::note(
                $r->on,
                match ($r->kind) {
                    Ast\JoinKind::Left => $ofRight,
                    Ast\JoinKind::Right => $ofLeft,
                    default => new NameScope($all, null, $merged),
                },
            );
        }
        $on = $r->on === null ? null : $this->expression($r->on, new NameScope($all, $outer, $merged), 'join', $common);

        return [new Ast\Join($r->at, $r->kind, $left, $right, $on, $using, false), $all, $merged];
    }

    /**
     * @param  Relations  $relations
     * @return list<string>
     */
    private static function columnNames(array $relations): array
    {
        $names = [];
        foreach ($relations as [, $columns]) {
            array_push($names, ...array_map(strtolower(...), array_column($columns, 0)));
        }

        return $names;
    }

    /**
     * @param  Common  $common
     * @return array{Ast\Relation, Relations}
     *
     * @throws Undecidable
     * @throws SyntaxError
     */
    private function table(Ast\TableName $r, array $common): array
    {
        $own = strtolower($r->parts[count($r->parts) - 1]);
        $alias = strtolower($r->alias ?? $own);
        if (count($r->parts) === 1 && $r->asOf === null && isset($common[$own])) {
            return [$r, [[$alias, self::named(self::renamed($common[$own], $r->columns))]]];
        }
        $path = $this->needs->path($this->inView($r->parts), $r->at);
        $table =
            $this->policy->catalog->table($path) ??
            throw new Undecidable('There is no table or view '.implode('.', $r->parts)." on {$this->cluster}.", $r->at);
        [$read, $columns, $query] = $this->read($table, $alias, $r->asOf);
        $seen = array_values($columns);
        foreach ($r->columns === [] ? [] : $seen as $i => $column) {
            if ($column->isShut()) {
                $this->name($column, 'output');
            }
            $seen[$i] = $column->called($r->columns[$i] ?? $column->name);
        }
        $needed = $this->needed($read, $columns, $r->columns !== []);
        $whole =
            array_filter(
                $needed,
                static fn (SeenColumn $column): bool => ($read->access->columns[$column->base]->sight ?? Sight::Visible) !== Sight::Visible,
            ) === [];
        $rows = $this->rows[$read->index] ?? null;
        $counts =
            ($this->known[$read->index] ?? null)?->grouped === true &&
            $this->known[$read->index]->joined &&
            self::smallest($this->policy) > 1;
        if ($query === null && $whole && $rows === null && ! $counts) {
            // Inside of a view names are spelled out, so that no name of the statement around it can be taken for one.
            $as =
                $this->views === []
                    ? $r
                    : new Ast\TableName($r->at, array_slice(ObjectPath::parts($path), 1), $r->alias ?? $own, $r->columns, $r->asOf);

            return [$as, [[$alias, self::named($seen)]]];
        }
        $this->changed = true;

        return [$this->narrowed($r, $table, $read, $needed, $query, $rows, $counts), [[$alias, self::named($seen)]]];
    }

    /**
     * Names of a view mean what they meant where it was made: its own schema counts, never that of its reader.
     *
     * @param  list<string>  $parts
     * @return list<string>
     */
    private function inView(array $parts): array
    {
        $view = $this->views[count($this->views) - 1] ?? null;

        return $view === null || count($parts) > 1 ? $parts : [ObjectPath::parts($view)[1], $parts[0]];
    }

    /**
     * The columns a statement needs of a table. A column it does not name need not be masked, and where all it names is
     * plainly visible the table is read as it is.
     *
     * @param  array<string, SeenColumn>  $columns
     * @return array<string, SeenColumn>
     */
    private function needed(TableRead $read, array $columns, bool $renamed): array
    {
        $known = $this->known[$read->index] ?? null;
        if ($known === null || $renamed || $known->star) {
            return $columns;
        }
        $used = array_intersect_key($columns, $known->uses);

        // Where only rows are counted, any column will do that shows nothing.
        return $used !== [] ? $used : array_slice(array_filter($columns, static fn (SeenColumn $column): bool =>
            ! $column->isShut()), 0, 1);
    }

    /**
     * The table as a query that gives no more than may be seen of it.
     *
     * @param  array<string, SeenColumn>  $columns
     *
     * @throws SyntaxError
     */
    private function narrowed(
        Ast\TableName $r,
        TableEntry $table,
        TableRead $read,
        array $columns,
        ?Ast\Query $query,
        ?Ast\Expression $rows,
        bool $counts,
    ): Ast\DerivedTable {
        $items = [];
        foreach ($columns as $name => $column) {
            if ($column->isShut()) {
                continue;
            }
            $mask = $read->access->columns[$name]->mask ?? null;
            try {
                $value = $mask === null ? new Ast\ColumnName(0, [$name]) : $this->masking->of($mask, $name, $table->columns[$name]);
            } catch (ConditionError $error) {
                $this->ruling->refuse(new Refusal(Refusal::CLOSED, $table->path, $error->getMessage()));
                $value = new Ast\NullLiteral(0);
            }
            $items[] = new Ast\SelectItem(0, $value, $value instanceof Ast\ColumnName ? null : $name);
        }
        if ($counts) {
            $items[] = Totals::member();
        }
        $inner =
            $query === null
                ? new Ast\TableName($r->at, array_slice(ObjectPath::parts($table->path), 1), null, [], $r->asOf)
                : new Ast\DerivedTable($r->at, $query, 'seen', [], false);
        // A query needs a column, also when only rows are counted.
        $items = $items === [] ? [new Ast\SelectItem(0, new Ast\NumberLiteral(0, '1'), 'nothing_visible')] : $items;
        $select = new Ast\Select(0, false, $items, $inner, $rows, [], null, null, null, []);
        $as = $r->columns === [] || ! $counts ? $r->columns : [...$r->columns, Totals::MEMBER];

        return new Ast\DerivedTable(
            $r->at,
            new Ast\Query(0, [], false, $select, [], null, null),
            $r->alias ?? $r->parts[count($r->parts) - 1],
            $as,
            false,
        );
    }

    /**
     * Notes that a table is read, and says what its columns are to the reader.
     *
     * @return array{TableRead, array<string, SeenColumn>, Ast\Query|null} the query a view is to be read by
     *
     * @throws Undecidable
     * @throws SyntaxError
     */
    private function read(TableEntry $table, string $alias, ?Ast\Expression $asOf): array
    {
        $reader = $this->ruling->reader;
        $owner = $this->owners === [] ? null : $this->owners[count($this->owners) - 1];
        $access = $owner === null ? $reader->table($table) : self::both($owner->table($table), $reader->tableByRules($table));
        $index = count($this->reads);
        $read = new TableRead($index, $table->path, $alias, $access, $this->views[count($this->views) - 1] ?? null, $owner);
        $this->reads[] = $read;
        $this->direct[$index] = true;
        $lineage = $query = null;
        if ($table->view !== null) {
            [$query, $lineage] = $this->view($table, $asOf);
        }
        $columns = [];
        foreach (array_keys($table->columns) as $i => $name) {
            $name = (string) $name;
            $own = $access->columns[$name];
            $below = $lineage[$i] ?? null;
            $path = ObjectPath::child($table->path, $name);
            $from = [$path, ...$below === null ? [] : array_values(array_diff($below->from, [$path]))];
            $columns[$name] = new SeenColumn(
                $name,
                $below === null ? $own : $own->and($below->access),
                $from,
                $read,
                null,
                $table->columns[$name],
            );
        }
        if ($access->isClosed()) {
            $this->closed($read, $owner);
        }

        return [$read, $columns, $query];
    }

    private function closed(TableRead $read, ?Reader $owner): void
    {
        $this->shutTables[$read->path] = true;
        $causes = [];
        foreach ($read->access->columns as $access) {
            foreach ($access->causes as $cause) {
                $causes[(string) $cause] = $cause;
            }
        }
        $table = $read->access->table->path;
        // One sentence for the table instead of one for each column.
        $causes = array_values($causes);
        $first = $causes[0] ?? null;
        if ($first !== null && $first->kind === Cause::NO_GRANT) {
            $causes = [new Cause(Cause::NO_GRANT, $first->name, $table)];
        }
        $whose = $owner !== null && $this->ruling->reader->tableByRules($read->access->table)->isClosed() === false ? $owner->subject : '';
        $closed =
            $whose === ''
                ? "{$table} is closed to {$this->ruling->who()}"
                : "The view {$read->view} reads {$table}, which is closed to its owner, ".Subject::show($whose);
        $this->ruling->refuse(
            new Refusal(
                Refusal::COLUMN,
                $table,
                $closed.($causes === [] ? '' : ': '.implode(', ', array_map(strval(...), $causes))).'.',
                $causes,
                Privilege::Select->value,
                '',
                [],
                $whose,
            ),
        );
    }

    private static function both(TableAccess $a, TableAccess $b): TableAccess
    {
        $columns = [];
        foreach ($a->columns as $name => $access) {
            $columns[$name] = $access->and($b->columns[$name]);
        }

        return new TableAccess($a->table, $columns, $a->filters + $b->filters, $a->privileges, [...$a->errors, ...$b->errors]);
    }

    /**
     * @return array{Ast\Query|null, list<SeenColumn>} null when the view can be read as it is
     *
     * @throws Undecidable
     * @throws SyntaxError
     */
    private function view(TableEntry $table, ?Ast\Expression $asOf): array
    {
        if ($asOf !== null) {
            throw new Undecidable("{$table->path} is a view; only tables keep versions.", $asOf->at);
        }
        if (in_array($table->path, $this->views, true) || count($this->views) >= self::DEEPEST_VIEW) {
            throw new Undecidable("The view {$table->path} leads back to itself.");
        }
        $owner = $this->policy->ownerOf($table->path);
        if ($owner === null) {
            $message = "The view {$table->path} has no owner whose rights it could read with; name one.";
            $this->ruling->refuse(new Refusal(Refusal::CLOSED, $table->path, $message, [new Cause(Cause::NO_OWNER, '', $table->path)]));

            return [null, []];
        }
        try {
            $statement = (new Parser($this->dialect))->statement((string) $table->view);
        } catch (SyntaxError $error) {
            throw new Undecidable("The text of the view {$table->path} cannot be read: ".$error->getMessage());
        }
        if (! ($statement instanceof Ast\CreateView)) {
            throw new Undecidable("The text of the view {$table->path} is no CREATE VIEW.");
        }
        $as = [];
        foreach ($table->columns as $name => $type) {
            $as[] = [(string) $name, $type];
        }
        $this->views[] = $table->path;
        $this->owners[] = $this->policy->reader($owner);
        [$query, $columns, $narrowed] = $this->apart($statement->query, $as);
        array_pop($this->views);
        array_pop($this->owners);
        if (count($columns) !== count($table->columns)) {
            throw new Undecidable("The view {$table->path} gives other columns than the catalog says; read the catalog again.");
        }

        return [$narrowed ? $query : null, $columns];
    }

    /**
     * @param  list<array{string, ColumnType}>  $as
     * @return array{Ast\Query, list<SeenColumn>, bool} the last says whether it had to be changed
     *
     * @throws Undecidable
     * @throws SyntaxError
     */
    private function apart(Ast\Query $query, array $as): array
    {
        [$changed, $direct, $flows, $tests] = [$this->changed, $this->direct, $this->flows, $this->tests];
        $this->changed = false;
        $this->tests = 0;
        [$query, $columns] = $this->query($query, null, [], $as);
        $narrowed = $this->changed;
        [$this->changed, $this->direct, $this->flows, $this->tests] = [$changed, $direct, $flows, $tests];

        return [$query, $columns, $narrowed];
    }

    /** A column is named by the statement. */
    private function name(SeenColumn $column, string $for): void
    {
        $column->read?->use($column->base, $for);
        if (! $column->isShut()) {
            $this->maskedUse($column, $this->tests > 0 && $for === 'output' ? 'filter' : $for);

            return;
        }
        if ($this->views !== [] && $for === 'output') {
            $this->shut[] = $column;

            return;
        }
        $object = $column->from[0] ?? $column->name;
        if (isset($this->shutTables[(string) ObjectPath::parent($object)])) {
            return;
        }
        $view = $this->views === [] ? '' : "The view {$this->views[count($this->views) - 1]} needs it for a {$for}: ";
        $causes = $column->access->causes;
        $whose = $this->whose($column);
        $who = $whose === '' ? $this->ruling->who() : Subject::show($whose);
        $message =
            "{$view}{$object} is {$column->access->sight->value} for {$who}: ".implode(', ', array_map(strval(...), $causes)).'.';
        $this->ruling->refuse(new Refusal(Refusal::COLUMN, $object, $message, $causes, Privilege::Select->value, '', [], $whose));
    }

    private function maskedUse(SeenColumn $column, string $for): void
    {
        $mask = $column->access->mask;
        if ($mask === null || $for === 'output' || $this->policy->document->setting('masked use', 'masked value') !== 'refuse') {
            return;
        }
        if ($for === 'join' && Masking::kind($mask) === MaskKind::Hash) {
            return;
        }
        $object = $column->from[0] ?? $column->name;
        $use =
            ['filter' => 'in a condition', 'order' => 'to sort', 'group' => 'to group or tell rows apart', 'join' => 'to join'][$for] ??
            "for {$for}";
        $message = "{$object} is masked for {$this->ruling->who()} and may not be used {$use}.";
        $this->ruling->refuse(new Refusal(Refusal::MASKED_USE, $object, $message, $column->access->causes));
    }

    /**
     * @param  NameScope<SeenColumn>  $names
     * @param  Common  $common
     * @param  list<string>  $aliases names of the result that can be meant
     */
    private function expression(Ast\Expression $e, NameScope $names, string $for, array $common, array $aliases = []): Ast\Expression
    {
        $tests = $for === 'output' && self::isTest($e) ? 1 : 0;
        $this->tests += $tests;
        $mapped = $this->inside($e, $names, $for, $common, $aliases);
        $this->tests -= $tests;
        assert($mapped instanceof Ast\Expression);

        return $mapped;
    }

    /**
     * @param  NameScope<SeenColumn>  $names
     * @param  Common  $common
     * @param  list<string>  $aliases
     */
    private function inside(Ast\Node $node, NameScope $names, string $for, array $common, array $aliases): Ast\Node
    {
        return Tree::map($node, function (Ast\Node $part) use ($node, $names, $for, $common, $aliases): ?Ast\Node {
            if ($part instanceof Ast\ColumnName) {
                $this->column($part, $names, $for, $aliases);

                return $part;
            }
            if ($part instanceof Ast\Call && $part->name === 'keyed_hash') {
                // Whoever could call it could hash guesses and compare.
                $this->ruling->refuse(new Refusal(Refusal::CLOSED, $this->cluster, 'keyed_hash belongs to masks and cannot be called.'));
            }
            if ($part instanceof Ast\Star) {
                // Only count(*) is left here.
                return $part;
            }
            if ($part instanceof Ast\Exists) {
                return new Ast\Exists($part->at, $this->query($part->query, $names, $common)[0]);
            }
            if ($part instanceof Ast\Query) {
                [$query, $columns] = $this->query($part, $names, $common);
                $this->compared($columns, $for === 'output' && $this->tests === 0 ? 'output' : 'filter');
                array_push($this->flows, ...array_map(static fn (SeenColumn $one): SeenColumn => $one->fromInside(), $columns));

                return $query;
            }
            if ($part instanceof Ast\Over && $for === 'output') {
                return $this->inside($part, $names, 'group', $common, $aliases);
            }
            if ($part !== $node && $for === 'output' && self::isTest($part)) {
                $this->tests++;
                $mapped = $this->inside($part, $names, $for, $common, $aliases);
                $this->tests--;

                return $mapped;
            }

            return null;
        });
    }

    /** What tells about a value by yes and no. */
    private static function isTest(Ast\Node $part): bool
    {
        return $part instanceof Ast\CaseOf ||
            $part instanceof Ast\Like ||
            $part instanceof Ast\InList ||
            $part instanceof Ast\InQuery ||
            $part instanceof Ast\Between ||
            $part instanceof Ast\IsTest ||
            $part instanceof Ast\DistinctTest ||
            $part instanceof Ast\Quantified ||
            ($part instanceof Ast\Binary && in_array($part->operator, ['=', '==', '<=>', '<>', '!=', '<', '<=', '>', '>='], true)) ||
            ($part instanceof Ast\Call &&
                in_array(
                    $part->name,
                    [
                        'if',
                        'nullif',
                        'ifnull',
                        'iif',
                        'decode',
                        'greatest',
                        'least',
                        'locate',
                        'instr',
                        'position',
                        'strpos',
                        'find_in_set',
                        'field',
                    ],
                    true,
                ));
    }

    /**
     * @param  NameScope<SeenColumn>  $names
     * @param  list<string>  $aliases
     *
     * @throws Undecidable
     */
    private function column(Ast\ColumnName $name, NameScope $names, string $for, array $aliases): void
    {
        $found = $names->find($name->parts);
        if ($found === []) {
            if (count($name->parts) === 1 && in_array(strtolower($name->parts[0]), $aliases, true)) {
                return;
            }
            throw new Undecidable('There is no column '.implode('.', $name->parts).' here.', $name->at);
        }
        foreach ($found as $column) {
            $this->name($column, $for);
            $this->flows[] = $column;
        }
    }
}
