<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

use Fulcrion\Core\Access\Policy\ConditionError;
use Fulcrion\Core\Access\Policy\MaskKind;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Access\Policy\Privilege;
use Fulcrion\Core\Access\Policy\Subject;
use Fulcrion\Core\Access\World\TableEntry;
use Fulcrion\Core\Sql\Ast;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\Printer;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Core\Sql\Tree;

/**
 * Decides whether somebody may run a statement, and writes it so that it shows no more than it may: every table that is
 * not wholly visible becomes a query of its own, with the rows that are left and with masks in the place of values.
 * Filters, joins, groups and orders therefore see masked values only, and no question can be asked around a mask.
 *
 * A view is read with its owner's grants, but the rules and scopes of the reader hold for the tables below it as well:
 * it is computed from what its reader may see. A column of a view that needs a hidden one is hidden too.
 */
final class StatementDecider
{
    private const DEEPEST_VIEW = 16;

    private readonly Printer $printer;

    /** @var array<string, Refusal> */
    private array $refusals = [];

    /** @var array<string, string> */
    private array $notes = [];

    /** @var list<TableRead> */
    private array $reads = [];

    /** @var list<Ast\Expression|null>|null rows left of each read; null while they are not known */
    private ?array $rows = null;

    /** @var list<TableRead> what is known of each read, once the statement was gone through */
    private array $known = [];

    private int $next = 0;

    private bool $changed = false;

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

    public function __construct(
        private readonly Policy $policy,
        private readonly Reader $reader,
        private readonly string $cluster,
        private readonly string $schema = '',
        private readonly Dialect $dialect = Dialect::Ansi,
        private readonly Masking $masking = new Masking(),
    ) {
        $this->printer = new Printer($dialect);
    }

    public function decide(string $sql): StatementDecision
    {
        try {
            return $this->decideRead($sql, (new Parser($this->dialect))->statement($sql));
        } catch (SyntaxError $error) {
            return new StatementDecision($sql, null, [], [], [], [], $error->getMessage(), $error->offset);
        }
    }

    /** The same for a statement that was read already, as when many people are asked about. */
    public function decideRead(string $sql, Ast\Statement $statement): StatementDecision
    {
        $this->rows = null;
        $this->known = [];
        try {
            $this->begin();
            [, $columns] = $this->statement($statement);
            $rows = array_map($this->rowsOf(...), $this->reads);
            if ($this->refusals !== []) {
                return new StatementDecision($sql, null, array_values($this->refusals), array_values($this->notes), $columns, $this->reads);
            }
            $reads = $this->reads;
            $notes = $this->notes;
            $this->rows = $rows;
            $this->known = $reads;
            $this->begin();
            [$rewritten] = $this->statement($statement);
        } catch (Undecidable $error) {
            return new StatementDecision($sql, null, [], [], [], [], $error->getMessage(), $error->offset);
        }
        if ($this->refusals !== []) {
            return new StatementDecision($sql, null, array_values($this->refusals), array_values($notes), $columns, $reads);
        }

        return new StatementDecision($sql, $this->changed ? $this->printer->statement($rewritten) : $sql, [], array_values($notes), $columns, $reads);
    }

    /**
     * What the reader sees of each column of a table, or through a view.
     *
     * @return array<string, ColumnAccess>
     */
    public function columnsOf(TableEntry $table): array
    {
        if ($table->view === null) {
            return $this->reader->table($table)->columns;
        }
        $this->rows = null;
        $this->begin();
        try {
            [, $columns] = $this->read($table, 'seen', null);
        } catch (Undecidable $error) {
            $cause = new Cause(Cause::LINEAGE, '', $table->path, $error->getMessage());

            return array_map(static fn (): ColumnAccess => new ColumnAccess(Sight::Denied, null, [$cause]), $table->columns);
        }
        if ($this->refusals !== []) {
            $causes = array_merge([], ...array_map(static fn (Refusal $one): array => $one->causes, array_values($this->refusals)));

            return array_map(static fn (): ColumnAccess => new ColumnAccess(Sight::Denied, null, $causes), $table->columns);
        }

        return array_map(static fn (SeenColumn $column): ColumnAccess => $column->access, $columns);
    }

    private function begin(): void
    {
        $this->refusals = $this->notes = $this->reads = $this->views = $this->owners = $this->direct = $this->shut = $this->shutTables = [];
        $this->next = 0;
        $this->changed = false;
    }

    private function refuse(Refusal $refusal): void
    {
        $this->refusals[$refusal->key()] ??= $refusal;
    }

    /**
     * @return array{Ast\Statement, list<SeenColumn>}
     */
    private function statement(Ast\Statement $s): array
    {
        if ($s instanceof Ast\Query) {
            return $this->query($s, null, []);
        }
        if ($s instanceof Ast\Explain) {
            [$inner, $columns] = $this->statement($s->statement);

            return [new Ast\Explain($s->at, $s->run, $inner), $columns];
        }
        if ($s instanceof Ast\Insert) {
            $this->need(Privilege::Insert, $this->path($s->table));
            [$source] = $this->query($s->source, null, []);

            return [new Ast\Insert($s->at, $s->table, $s->columns, $source), []];
        }
        if ($s instanceof Ast\Update || $s instanceof Ast\Delete) {
            return [$this->change($s), []];
        }
        if ($s instanceof Ast\CreateTable) {
            $this->need(Privilege::Create, (string) ObjectPath::parent($this->path($s->name)));
            if ($s->source === null) {
                return [$s, []];
            }
            [$source] = $this->query($s->source, null, []);

            return [new Ast\CreateTable($s->at, $s->name, $s->columns, $s->options, $source, $s->orReplace, $s->unlessThere), []];
        }
        if ($s instanceof Ast\CreateView || $s instanceof Ast\CreatePrepared) {
            $this->need(Privilege::Create, (string) ObjectPath::parent($this->path($s->name)));
            // The text of a view is kept as it is written: what its readers see is decided when they read it.
            $this->query($s->query, null, []);
            $this->changed = false;

            return [$s, []];
        }
        match (true) {
            $s instanceof Ast\Refresh => $this->need(Privilege::Alter, $this->path($s->name)),
            $s instanceof Ast\CreateSchema => $this->need(Privilege::Create, $this->cluster),
            $s instanceof Ast\Drop => $this->need(Privilege::Drop, $s->kind === 'SCHEMA' ? ObjectPath::of([$this->cluster, ...$s->name]) : $this->path($s->name)),
            $s instanceof Ast\Analyze, $s instanceof Ast\Maintain => $this->need(Privilege::Alter, $this->path($s->table)),
            $s instanceof Ast\Copy => $this->need(Privilege::Insert, $this->path($s->table)),
            $s instanceof Ast\Rename => array_map(fn (array $pair) => $this->need(Privilege::Alter, $this->path($pair[0])), $s->pairs),
            default => $this->refuse(new Refusal(Refusal::CLOSED, $this->cluster, $s instanceof Ast\Privileges ? 'Access is decided by the policy; GRANT and REVOKE are not run for anybody.' : 'This kind of statement is not decided by the policy and not run.')),
        };

        return [$s, []];
    }

    /**
     * @param  list<string>  $parts
     */
    private function path(array $parts): string
    {
        if (count($parts) === 1) {
            if ($this->schema === '') {
                throw new Undecidable("Write the schema in front of {$parts[0]}, or choose a schema.");
            }
            $parts = [$this->schema, ...$parts];
        }

        return ObjectPath::of([$this->cluster, ...array_slice($parts, -2)]);
    }

    private function need(Privilege $privilege, string $path): void
    {
        $schema = count(ObjectPath::parts($path)) > 2 ? (string) ObjectPath::parent($path) : $path;
        foreach ([[Privilege::Use, $schema], [$privilege, $path]] as [$one, $where]) {
            $cause = $this->reader->missing($one, $where);
            if ($cause !== null) {
                $this->refuse(new Refusal(Refusal::PRIVILEGE, $where, ucfirst((string) $cause).'.', [$cause], $one->value));
            }
        }
    }

    /** What UPDATE and DELETE look at must be seen plainly; rows that are filtered away are not touched. */
    private function change(Ast\Update|Ast\Delete $s): Ast\Statement
    {
        $path = $this->path($s->table);
        $table = $this->policy->catalog->table($path) ?? throw new Undecidable("There is no table {$path} in the catalog.", $s->at);
        $this->need($s instanceof Ast\Update ? Privilege::Update : Privilege::Delete, $path);
        $alias = strtolower($s->alias ?? $s->table[count($s->table) - 1]);
        [$read, $columns] = $this->read($table, $alias, null);
        $names = new Names([[$alias, $columns]], null);
        $assignments = [];
        if ($s instanceof Ast\Update) {
            foreach ($s->assignments as [$column, $value]) {
                $assignments[] = [$column, $this->expression($value, $names, 'filter', [])];
                if (isset($columns[strtolower($column)]) && $columns[strtolower($column)]->isShut()) {
                    $this->name($columns[strtolower($column)], 'output');
                }
            }
        }
        $where = $s->where === null ? null : $this->expression($s->where, $names, 'filter', []);
        foreach ($read->uses as $column => $_) {
            $access = $read->access->columns[$column];
            if ($access->sight === Sight::Masked) {
                $this->refuse(new Refusal(Refusal::MASKED_USE, ObjectPath::child($path, $column), "A change cannot depend on {$path}.{$column}, which is masked for {$this->who()}.", $access->causes));
            }
        }
        $rows = $this->rows[$read->index] ?? null;
        if ($rows !== null) {
            $this->changed = true;
            $where = $where === null ? $rows : new Ast\Binary($where->at, 'AND', $where, $rows);
        }

        return $s instanceof Ast\Update ? new Ast\Update($s->at, $s->table, $s->alias, $assignments, $where) : new Ast\Delete($s->at, $s->table, $s->alias, $where);
    }

    private function who(): string
    {
        return Subject::show($this->reader->subject);
    }

    /**
     * @param  array<string, array{list<SeenColumn>}|null>  $common named queries in force; null for a table of that name
     * @param  list<string>|null  $as names its columns get, inside of a view
     * @return array{Ast\Query, list<SeenColumn>}
     */
    private function query(Ast\Query $q, ?Names $outer, array $common, ?array $as = null): array
    {
        if ($q->recursive) {
            throw new Undecidable('WITH RECURSIVE cannot be decided: which rows it reads is known only while it runs.', $q->at);
        }
        $with = [];
        foreach ($q->with as $table) {
            [$inner, $columns] = $this->query($table->query, null, $common);
            $with[] = new Ast\CommonTable($table->at, $table->name, $table->columns, $inner);
            $common[strtolower($table->name)] = [self::renamed($columns, $table->columns)];
        }
        $names = null;
        [$body, $columns] = $this->body($q->body, $outer, $common, $as, $names);
        $order = $this->orderBy($q->orderBy, $columns, $names, $outer, $common);

        return [new Ast\Query($q->at, $with, false, $body, $order, $q->limit, $q->offset), $columns];
    }

    /**
     * @param  list<Ast\SortKey>  $keys
     * @param  list<SeenColumn>  $columns of the result
     * @param  Names|null  $names of the select that is ordered; null where only the result can be named
     * @param  array<string, array{list<SeenColumn>}|null>  $common
     * @return list<Ast\SortKey>
     */
    private function orderBy(array $keys, array $columns, ?Names $names, ?Names $outer, array $common): array
    {
        $order = [];
        $aliases = array_map(static fn (SeenColumn $column): string => $column->name, $columns);
        foreach ($keys as $key) {
            $value = $key->value;
            $alias = $value instanceof Ast\ColumnName && count($value->parts) === 1 ? array_search(strtolower($value->parts[0]), $aliases, true) : false;
            if ($alias !== false) {
                $this->maskedUse($columns[$alias], 'order');
                if ($columns[$alias]->read !== null) {
                    $columns[$alias]->read->use($columns[$alias]->name, 'order');
                }
            } elseif (! $value instanceof Ast\NumberLiteral) {
                $value = $this->expression($value, $names ?? new Names([], $outer), 'order', $common, $aliases);
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
        return $names === [] ? $columns : array_map(static fn (SeenColumn $column, int $i): SeenColumn => new SeenColumn(strtolower($names[$i] ?? $column->name), $column->access, $column->from), $columns, array_keys($columns));
    }

    /**
     * @param  array<string, array{list<SeenColumn>}|null>  $common
     * @param  list<string>|null  $as
     * @return array{Ast\QueryBody, list<SeenColumn>}
     */
    private function body(Ast\QueryBody $body, ?Names $outer, array $common, ?array $as, ?Names &$names): array
    {
        if ($body instanceof Ast\Select) {
            return $this->select($body, $outer, $common, $as, $names);
        }
        if ($body instanceof Ast\NestedQuery) {
            [$query, $columns] = $this->query($body->query, $outer, $common, $as);

            return [new Ast\NestedQuery($body->at, $query), $columns];
        }
        if ($body instanceof Ast\SetOperation) {
            $inner = null;
            [$left, $a] = $this->body($body->left, $outer, $common, $as, $inner);
            [$right, $b] = $this->body($body->right, $outer, $common, $as, $inner);
            $columns = array_map(static fn (SeenColumn $column, int $i): SeenColumn => isset($b[$i]) ? new SeenColumn($column->name, $column->access->and($b[$i]->access), [...$column->from, ...$b[$i]->from]) : $column, $a, array_keys($a));

            return [new Ast\SetOperation($body->at, $body->operator, $body->all, $left, $right), $columns];
        }
        if ($body instanceof Ast\ValuesList) {
            $rows = [];
            foreach ($body->rows as $row) {
                $rows[] = array_map(fn (Ast\Expression $e): Ast\Expression => $this->expression($e, new Names([], $outer), 'output', $common), $row);
            }
            $columns = [];
            foreach (array_keys($body->rows[0] ?? []) as $i) {
                $columns[] = new SeenColumn('column'.($i + 1), new ColumnAccess(Sight::Visible), []);
            }

            return [new Ast\ValuesList($body->at, $rows), $columns];
        }
        throw new Undecidable('This query cannot be decided.', $body->at);
    }

    /**
     * @param  array<string, array{list<SeenColumn>}|null>  $common
     * @param  list<string>|null  $as
     * @param-out Names $names
     * @return array{Ast\Select, list<SeenColumn>}
     */
    private function select(Ast\Select $s, ?Names $outer, array $common, ?array $as, ?Names &$names): array
    {
        $around = $this->direct;
        [$from, $relations, $direct] = $this->from($s->from, $outer, $common);
        $names = new Names($relations, $outer);
        if ($s->where !== null) {
            $this->restrict($s->where, $relations, $direct);
        }
        $aggregated = $s->groupBy !== [] || self::aggregates([$s->items, $s->having, $s->qualify]);
        foreach (array_keys($direct) as $i) {
            $this->reads[$i]->aggregated = $aggregated;
        }
        $where = $s->where === null ? null : $this->expression($s->where, $names, 'filter', $common);
        [$items, $columns] = $this->items($s->items, $names, $common, $as);
        $aliases = array_values(array_filter(array_map(static fn (Ast\SelectItem $item): string => strtolower($item->alias ?? ''), $s->items), static fn (string $alias): bool => $alias !== ''));
        $groups = [];
        foreach ($s->groupBy as $e) {
            $named = $e instanceof Ast\NumberLiteral ? ($s->items[(int) $e->text - 1]->value ?? null) : null;
            if ($e instanceof Ast\ColumnName && count($e->parts) === 1 && $names->find($e->parts) === null) {
                foreach ($s->items as $item) {
                    if ($item->alias !== null && strcasecmp($item->alias, $e->parts[0]) === 0) {
                        $named = $item->value;
                    }
                }
            }
            if ($named !== null) {
                $this->expression($named, $names, 'group', $common, $aliases);
                $groups[] = $e;
            } else {
                $groups[] = $this->expression($e, $names, 'group', $common, $aliases);
            }
        }
        $having = $s->having === null ? null : $this->expression($s->having, $names, 'filter', $common, $aliases);
        $qualify = $s->qualify === null ? null : $this->expression($s->qualify, $names, 'filter', $common, $aliases);
        $windows = [];
        foreach ($s->windows as $name => $over) {
            $mapped = $this->inside($over, $names, 'group', $common, $aliases);
            assert($mapped instanceof Ast\Over);
            $windows[$name] = $mapped;
        }
        $this->direct = $around;

        return [new Ast\Select($s->at, $s->distinct, $items, $from, $where, $groups, $s->grouping, $having, $qualify, $windows), $columns];
    }

    /**
     * @param  array<string, array{list<SeenColumn>}|null>  $common
     * @return array{Ast\Relation|null, list<array{string, array<string, SeenColumn>|null}>, array<int, true>} the last are the reads that stand in it directly
     */
    private function from(?Ast\Relation $relation, ?Names $outer, array $common): array
    {
        $this->direct = [];
        [$from, $relations] = $relation === null ? [null, []] : $this->relation($relation, $outer, $common);

        return [$from, $relations, $this->direct];
    }

    /**
     * @param  list<Ast\SelectItem>  $items
     * @param  array<string, array{list<SeenColumn>}|null>  $common
     * @param  list<string>|null  $as
     * @return array{list<Ast\SelectItem>, list<SeenColumn>}
     */
    private function items(array $items, Names $names, array $common, ?array $as): array
    {
        $inView = $this->views !== [];
        $out = $columns = [];
        foreach ($items as $item) {
            if ($item->value instanceof Ast\Star) {
                foreach ($this->star($item->value, $names) as [$alias, $column]) {
                    $columns[] = $column;
                    if ($inView) {
                        // Spelled out, so that a hidden column leaves a gap and the others keep their places.
                        $value = $column->isShut() ? new Ast\NullLiteral($item->at) : new Ast\ColumnName($item->at, [$alias, $column->name]);
                        $out[] = new Ast\SelectItem($item->at, $value, $as[count($columns) - 1] ?? $column->name);
                    }
                }
                if (! $inView) {
                    $out[] = $item;
                }

                continue;
            }
            [$value, $mine] = $this->item($item->value, $names, $common);
            $plain = $item->value instanceof Ast\ColumnName ? ($names->find($item->value->parts) ?? []) : [];
            $name = strtolower($item->alias ?? ($item->value instanceof Ast\ColumnName ? $item->value->parts[count($item->value->parts) - 1] : ''));
            $sources = $this->sources($item->value, $names);
            $access = array_reduce($sources, static fn (ColumnAccess $all, SeenColumn $one): ColumnAccess => $all->and($one->access), new ColumnAccess(Sight::Visible));
            $from = array_values(array_unique(array_merge([], ...array_map(static fn (SeenColumn $one): array => $one->from, $sources))));
            if ($mine !== []) {
                $this->changed = true;
                $access = new ColumnAccess(Sight::Hidden, null, array_map(static fn (SeenColumn $one): Cause => new Cause(Cause::LINEAGE, $one->name, $one->from[0] ?? $one->name, implode(', ', array_map(strval(...), $one->access->causes))), $mine));
                $value = new Ast\NullLiteral($item->at);
            }
            $columns[] = new SeenColumn($name, $access, $from, count($plain) === 1 && $plain[0]->name === $name ? $plain[0]->read : null);
            $out[] = new Ast\SelectItem($item->at, $value, $as === null ? $item->alias : ($as[count($columns) - 1] ?? $item->alias));
        }

        return [$out, $columns];
    }

    /**
     * @param  array<string, array{list<SeenColumn>}|null>  $common
     * @return array{Ast\Expression, list<SeenColumn>} with the shut columns it names, inside of a view
     */
    private function item(Ast\Expression $e, Names $names, array $common): array
    {
        $around = $this->shut;
        $this->shut = [];
        $value = $this->expression($e, $names, 'output', $common);
        $mine = $this->shut;
        $this->shut = $around;

        return [$value, $mine];
    }

    /**
     * What a * stands for. Hidden columns are left out and it is said; a denied one refuses the whole.
     *
     * @return list<array{string, SeenColumn}> alias, column
     */
    private function star(Ast\Star $star, Names $names): array
    {
        $qualifier = $star->qualifier === [] ? null : strtolower($star->qualifier[count($star->qualifier) - 1]);
        $inView = $this->views !== [];
        $all = [];
        $known = $qualifier === null;
        foreach ($names->relations as [$alias, $columns]) {
            if ($qualifier !== null && $alias !== $qualifier) {
                continue;
            }
            $known = true;
            foreach ($columns ?? [] as $column) {
                if ($inView) {
                    $all[] = [$alias, $column];
                    if (! $column->isShut()) {
                        $this->name($column, 'output');
                    }
                    if ($column->read !== null) {
                        $column->read->star = true;
                    }

                    continue;
                }
                if ($column->access->sight === Sight::Hidden) {
                    if ($column->read !== null) {
                        $column->read->star = true;
                    }
                    $this->notes["left {$column->from[0]}"] = "* leaves out {$column->from[0]}: ".implode(', ', array_map(strval(...), $column->access->causes)).'.';

                    continue;
                }
                $this->name($column, 'output');
                if ($column->read !== null) {
                    $column->read->star = true;
                }
                $all[] = [$alias, $column];
            }
        }
        if (! $known) {
            throw new Undecidable("There is no {$qualifier} here whose columns * could mean.", $star->at);
        }

        return $all;
    }

    /**
     * @param  array<string, array{list<SeenColumn>}|null>  $common
     * @return array{Ast\Relation, list<array{string, array<string, SeenColumn>|null}>}
     */
    private function relation(Ast\Relation $r, ?Names $outer, array $common): array
    {
        if ($r instanceof Ast\TableName) {
            return $this->named($r, $common);
        }
        if ($r instanceof Ast\DerivedTable) {
            [$query, $columns] = $this->query($r->query, $outer, $common);

            return [new Ast\DerivedTable($r->at, $query, $r->alias, $r->columns, $r->lateral), [[strtolower($r->alias), self::byName(self::renamed($columns, $r->columns))]]];
        }
        if ($r instanceof Ast\Join) {
            return $this->join($r, $outer, $common);
        }
        throw new Undecidable('What a table function reads cannot be decided.', $r->at);
    }

    /**
     * @param  array<string, array{list<SeenColumn>}|null>  $common
     * @return array{Ast\Relation, list<array{string, array<string, SeenColumn>|null}>}
     */
    private function join(Ast\Join $r, ?Names $outer, array $common): array
    {
        [$left, $a] = $this->relation($r->left, $outer, $common);
        $lateral = $r->right instanceof Ast\DerivedTable && $r->right->lateral;
        [$right, $b] = $this->relation($r->right, $lateral ? new Names($a, $outer) : $outer, $common);
        $using = $r->using;
        if ($r->natural) {
            // By all columns there are: one that is hidden must not silently drop out of the condition.
            $using = array_values(array_unique(array_intersect(self::columnNames($a), self::columnNames($b))));
        }
        foreach ($using as $name) {
            foreach ([$a, $b] as $side) {
                foreach ((new Names($side, null))->find([$name]) ?? [] as $column) {
                    $this->name($column, 'join');
                }
            }
        }
        $both = [...$a, ...$b];
        if ($r->on !== null && $r->kind !== Ast\JoinKind::Full) {
            // ON of an outer join leaves no row of the kept side away.
            $this->restrict($r->on, match ($r->kind) {
                Ast\JoinKind::Left => $b,
                Ast\JoinKind::Right => $a,
                default => $both,
            }, $this->direct);
        }
        $on = $r->on === null ? null : $this->expression($r->on, new Names($both, $outer), 'join', $common);

        return [new Ast\Join($r->at, $r->kind, $left, $right, $on, $using, false), $both];
    }

    /**
     * @param  list<array{string, array<string, SeenColumn>|null}>  $relations
     * @return list<string>
     */
    private static function columnNames(array $relations): array
    {
        $names = [];
        foreach ($relations as [, $columns]) {
            array_push($names, ...array_map(strval(...), array_keys($columns ?? [])));
        }

        return $names;
    }

    /**
     * @param  list<SeenColumn>  $columns
     * @return array<string, SeenColumn>
     */
    private static function byName(array $columns): array
    {
        $named = [];
        foreach ($columns as $column) {
            $named[$column->name] ??= $column;
        }

        return $named;
    }

    /**
     * @param  array<string, array{list<SeenColumn>}|null>  $common
     * @return array{Ast\Relation, list<array{string, array<string, SeenColumn>|null}>}
     */
    private function named(Ast\TableName $r, array $common): array
    {
        $own = strtolower($r->parts[count($r->parts) - 1]);
        $alias = strtolower($r->alias ?? $own);
        if (count($r->parts) === 1 && $r->asOf === null && isset($common[$own])) {
            return [$r, [[$alias, self::byName(self::renamed(array_map(static fn (SeenColumn $c): SeenColumn => new SeenColumn($c->name, $c->access, $c->from), $common[$own][0]), $r->columns))]]];
        }
        $path = $this->path($r->parts);
        $table = $this->policy->catalog->table($path) ?? throw new Undecidable('There is no table or view '.implode('.', $r->parts)." on {$this->cluster}.", $r->at);
        [$read, $columns, $query] = $this->read($table, $alias, $r->asOf);
        $seen = array_values($columns);
        if ($r->columns !== []) {
            foreach ($seen as $column) {
                if ($column->isShut()) {
                    $this->name($column, 'output');
                }
            }
            $seen = array_map(static fn (SeenColumn $c, int $i): SeenColumn => new SeenColumn(strtolower($r->columns[$i] ?? $c->name), $c->access, $c->from), $seen, array_keys($seen));
        }
        $needed = $this->needed($read, $columns, $r->columns !== []);
        $whole = array_filter($needed, static fn (SeenColumn $column): bool => ($read->access->columns[$column->name]->sight ?? Sight::Visible) !== Sight::Visible) === [];
        $rows = $this->rows[$read->index] ?? null;
        if ($query === null && $whole && $rows === null) {
            // Inside of a view names are spelled out, so that no name of the statement around it can be taken for one.
            return [$this->views === [] ? $r : new Ast\TableName($r->at, array_slice(ObjectPath::parts($path), 1), $r->alias ?? $own, $r->columns, $r->asOf), [[$alias, self::byName($seen)]]];
        }
        $this->changed = true;

        return [$this->narrowed($r, $table, $read, $needed, $query, $rows), [[$alias, self::byName($seen)]]];
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
        return $used !== [] ? $used : array_slice(array_filter($columns, static fn (SeenColumn $column): bool => ! $column->isShut()), 0, 1);
    }

    /**
     * The table as a query that gives no more than may be seen of it.
     *
     * @param  array<string, SeenColumn>  $columns
     */
    private function narrowed(Ast\TableName $r, TableEntry $table, TableRead $read, array $columns, ?Ast\Query $query, ?Ast\Expression $rows): Ast\DerivedTable
    {
        $items = [];
        foreach ($columns as $name => $column) {
            if ($column->isShut()) {
                continue;
            }
            $mask = $read->access->columns[$name]->mask ?? null;
            try {
                $value = $mask === null ? new Ast\ColumnName(0, [$name]) : $this->masking->of($mask, $name, $table->columns[$name]);
            } catch (ConditionError $error) {
                $this->refuse(new Refusal(Refusal::CLOSED, $table->path, $error->getMessage()));
                $value = new Ast\NullLiteral(0);
            }
            $items[] = new Ast\SelectItem(0, $value, $value instanceof Ast\ColumnName ? null : $name);
        }
        $inner = $query === null
            ? new Ast\TableName($r->at, array_slice(ObjectPath::parts($table->path), 1), null, [], $r->asOf)
            : new Ast\DerivedTable($r->at, $query, 'seen', [], false);
        // A query needs a column, also when only rows are counted.
        $items = $items === [] ? [new Ast\SelectItem(0, new Ast\NumberLiteral(0, '1'), 'nothing_visible')] : $items;

        return new Ast\DerivedTable($r->at, new Ast\Query(0, [], false, new Ast\Select(0, false, $items, $inner, $rows, [], null, null, null, []), [], null, null), $r->alias ?? $r->parts[count($r->parts) - 1], $r->columns, false);
    }

    /**
     * Notes that a table is read, and says what its columns are to the reader.
     *
     * @return array{TableRead, array<string, SeenColumn>, Ast\Query|null} the query a view is to be read by
     */
    private function read(TableEntry $table, string $alias, ?Ast\Expression $asOf): array
    {
        $owner = $this->owners === [] ? null : $this->owners[count($this->owners) - 1];
        $access = $owner === null ? $this->reader->table($table) : self::both($owner->table($table), $this->reader->tableByRules($table));
        $index = $this->next++;
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
            $columns[$name] = new SeenColumn($name, $below === null ? $own : $own->and($below->access), [$path, ...($below === null ? [] : array_diff($below->from, [$path]))], $read);
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
        $whose = $owner !== null && $this->reader->tableByRules($read->access->table)->isClosed() === false ? $owner->subject : '';
        $this->refuse(new Refusal(
            Refusal::COLUMN, $table,
            ($whose === '' ? "{$table} is closed to {$this->who()}" : "The view {$read->view} reads {$table}, which is closed to its owner, ".Subject::show($whose)).($causes === [] ? '' : ': '.implode(', ', array_map(strval(...), $causes))).'.',
            $causes, Privilege::Select->value, '', [], $whose,
        ));
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
            $this->refuse(new Refusal(Refusal::CLOSED, $table->path, "The view {$table->path} has no owner whose rights it could read with; name one.", [new Cause(Cause::NO_OWNER, '', $table->path)]));

            return [null, []];
        }
        try {
            $statement = (new Parser($this->dialect))->statement((string) $table->view);
        } catch (SyntaxError $error) {
            throw new Undecidable("The text of the view {$table->path} cannot be read: ".$error->getMessage());
        }
        if (! $statement instanceof Ast\CreateView) {
            throw new Undecidable("The text of the view {$table->path} is no CREATE VIEW.");
        }
        $this->views[] = $table->path;
        $this->owners[] = $this->policy->reader($owner);
        [$query, $columns, $narrowed] = $this->apart($statement->query, array_map(strval(...), array_keys($table->columns)));
        array_pop($this->views);
        array_pop($this->owners);
        if (count($columns) !== count($table->columns)) {
            throw new Undecidable("The view {$table->path} gives other columns than the catalog says; read the catalog anew.");
        }

        return [$narrowed ? $query : null, $columns];
    }

    /**
     * @param  list<string>  $as
     * @return array{Ast\Query, list<SeenColumn>, bool} the last says whether it had to be changed
     */
    private function apart(Ast\Query $query, array $as): array
    {
        [$changed, $direct] = [$this->changed, $this->direct];
        $this->changed = false;
        [$query, $columns] = $this->query($query, null, [], $as);
        $narrowed = $this->changed;
        [$this->changed, $this->direct] = [$changed, $direct];

        return [$query, $columns, $narrowed];
    }

    /** A column is named by the statement. */
    private function name(SeenColumn $column, string $for): void
    {
        $column->read?->use($column->name, $for);
        if ($column->isShut()) {
            if ($this->views !== [] && $for === 'output') {
                $this->shut[] = $column;

                return;
            }
            $object = $column->from[0] ?? $column->name;
            $view = $this->views === [] ? '' : "The view {$this->views[count($this->views) - 1]} needs it for a {$for}: ";
            $causes = $column->access->causes;
            $whose = '';
            $owner = $column->read?->owner;
            if ($owner !== null && ! in_array($this->reader->tableByRules($column->read->access->table)->columns[$column->name]->sight, [Sight::Hidden, Sight::Denied], true)) {
                $whose = $owner->subject;
            }
            if (! isset($this->shutTables[(string) ObjectPath::parent($object)])) {
                $this->refuse(new Refusal(Refusal::COLUMN, $object, "{$view}{$object} is {$column->access->sight->value} for ".($whose === '' ? $this->who() : Subject::show($whose)).': '.implode(', ', array_map(strval(...), $causes)).'.', $causes, Privilege::Select->value, '', [], $whose));
            }

            return;
        }
        $this->maskedUse($column, $for);
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
        $this->refuse(new Refusal(Refusal::MASKED_USE, $object, "{$object} is masked for {$this->who()} and may not be used for a {$for}.", $column->access->causes));
    }

    /**
     * @param  array<string, array{list<SeenColumn>}|null>  $common
     * @param  list<string>  $aliases names of the result that can be meant
     */
    private function expression(Ast\Expression $e, Names $names, string $for, array $common, array $aliases = []): Ast\Expression
    {
        $mapped = $this->inside($e, $names, $for, $common, $aliases);
        assert($mapped instanceof Ast\Expression);

        return $mapped;
    }

    /**
     * @param  array<string, array{list<SeenColumn>}|null>  $common
     * @param  list<string>  $aliases
     */
    private function inside(Ast\Node $node, Names $names, string $for, array $common, array $aliases): Ast\Node
    {
        return Tree::map($node, function (Ast\Node $part) use ($names, $for, $common, $aliases): ?Ast\Node {
            if ($part instanceof Ast\ColumnName) {
                $found = $names->find($part->parts);
                if ($found === null) {
                    if (count($part->parts) === 1 && in_array(strtolower($part->parts[0]), $aliases, true)) {
                        return $part;
                    }
                    throw new Undecidable('There is no column '.implode('.', $part->parts).' here.', $part->at);
                }
                foreach ($found as $column) {
                    $this->name($column, $for);
                }

                return $part;
            }
            if ($part instanceof Ast\Call && $part->name === 'keyed_hash') {
                // Whoever could call it could hash guesses and compare.
                $this->refuse(new Refusal(Refusal::CLOSED, $this->cluster, 'keyed_hash belongs to masks and cannot be called.'));
            }
            if ($part instanceof Ast\Star) {
                // Only count(*) is left here.
                return $part;
            }
            if ($part instanceof Ast\Query) {
                return $this->query($part, $names, $common)[0];
            }
            if ($part instanceof Ast\Over && $for === 'output') {
                return $this->inside($part, $names, 'group', $common, $aliases);
            }

            return null;
        });
    }

    /**
     * Columns whose values flow into an expression.
     *
     * @return list<SeenColumn>
     */
    private function sources(Ast\Expression $e, Names $names): array
    {
        $found = [];
        foreach (Tree::nodes($e) as $node) {
            if ($node instanceof Ast\ColumnName) {
                array_push($found, ...($names->find($node->parts) ?? []));
            }
        }

        return $found;
    }

    private static function aggregates(mixed $part): bool
    {
        if ($part instanceof Ast\Query) {
            return false;
        }
        if ($part instanceof Ast\Call && $part->over === null && in_array($part->name, ['count', 'sum', 'avg', 'min', 'max', 'stddev', 'variance', 'group_concat', 'approx_count_distinct'], true)) {
            return true;
        }
        foreach (is_array($part) ? $part : ($part instanceof Ast\Node ? get_object_vars($part) : []) as $inner) {
            if (self::aggregates($inner)) {
                return true;
            }
        }

        return false;
    }

    /**
     * Notes which values of which columns a condition asks for.
     *
     * @param  list<array{string, array<string, SeenColumn>|null}>  $relations
     * @param  array<int, true>  $direct
     */
    private function restrict(Ast\Expression $e, array $relations, array $direct): void
    {
        if ($e instanceof Ast\Binary && $e->operator === 'AND') {
            $this->restrict($e->left, $relations, $direct);
            $this->restrict($e->right, $relations, $direct);

            return;
        }
        $names = new Names($relations, null);
        $column = static function (Ast\Expression $side) use ($names): ?SeenColumn {
            $found = $side instanceof Ast\ColumnName ? $names->find($side->parts) ?? [] : [];

            return count($found) === 1 && $found[0]->read !== null ? $found[0] : null;
        };
        $asked = null;
        $of = null;
        if ($e instanceof Ast\Binary && $e->operator === '=') {
            [$of, $other] = [$column($e->left) ?? $column($e->right), $column($e->left) === null ? $e->left : $e->right];
            $value = self::constant($other);
            $asked = $value === null ? ($other instanceof Ast\Parameter ? [] : null) : [[$value, null]];
        } elseif ($e instanceof Ast\InList && ! $e->negated) {
            $of = $column($e->value);
            $values = array_map(self::constant(...), $e->items);
            $asked = in_array(null, $values, true) ? (array_filter($e->items, static fn (Ast\Expression $item): bool => $item instanceof Ast\Parameter) !== [] ? [] : null) : array_map(static fn (?string $value): array => [(string) $value, null], $values);
        } elseif ($e instanceof Ast\Between && ! $e->negated) {
            $of = $column($e->value);
            [$low, $high] = [self::constant($e->low), self::constant($e->high)];
            $asked = $low === null || $high === null ? ($e->low instanceof Ast\Parameter ? [] : null) : [[$low, $high]];
        }
        $read = $of?->read;
        if ($of !== null && $read instanceof TableRead && $asked !== null && ! isset($read->asked[$of->name])) {
            // An empty list stands for values that are asked for but not known.
            $read->asked[$of->name] = $asked === [] ? null : $asked;
        }
    }

    private static function constant(Ast\Expression $e): ?string
    {
        return match (true) {
            $e instanceof Ast\TextLiteral => $e->value,
            $e instanceof Ast\NumberLiteral, $e instanceof Ast\TimeLiteral => $e->text,
            $e instanceof Ast\Unary && $e->operator === '-' && $e->operand instanceof Ast\NumberLiteral => '-'.$e->operand->text,
            default => null,
        };
    }

    /** The rows of a read that are left by filters and scopes; null for all. Refuses what asks for more than it may. */
    private function rowsOf(TableRead $read): ?Ast\Expression
    {
        $conditions = [];
        if ($read->access->isClosed()) {
            return null;
        }
        $table = $read->access->table;
        foreach ($read->owner === null ? [$this->reader] : [$this->reader, $read->owner] as $one) {
            $filters = match (true) {
                $read->owner === null => $read->access->filters,
                $one === $read->owner => $one->table($table)->filters,
                default => $one->tableByRules($table)->filters,
            };
            foreach ($filters as $rule => $filter) {
                try {
                    $condition = $filter->forReader($one->attributes);
                } catch (ConditionError $error) {
                    $this->refuse(new Refusal(Refusal::CLOSED, $read->path, "Rule {$rule} is in error: ".$error->getMessage(), [new Cause(Cause::RULE_ERROR, (string) $rule, $read->path, $error->getMessage())]));

                    continue;
                }
                $shown = $this->printer->expression($condition);
                $read->left["rule {$rule}"] = $shown;
                $this->notes["{$read->path} rule {$rule} {$shown}"] = "Rule {$rule} leaves of {$read->path} the rows where {$shown}.";
                $conditions[] = $condition;
            }
        }
        foreach ($this->policy->scoped($read->path) as $column => [$dimension, $by]) {
            foreach ($read->owner === null ? [$this->reader] : [$this->reader, $read->owner] as $one) {
                $condition = $this->scope($read, (string) $column, $dimension, $by, $one);
                if ($condition !== null) {
                    $conditions[] = $condition;
                }
            }
        }

        return $conditions === [] ? null : array_reduce(array_slice($conditions, 1), static fn (Ast\Expression $all, Ast\Expression $one): Ast\Expression => new Ast\Binary(0, 'AND', $all, $one), $conditions[0]);
    }

    private function scope(TableRead $read, string $column, string $dimension, string $by, Reader $reader): ?Ast\Expression
    {
        $type = $read->access->table->columns[$column] ?? null;
        if ($type === null) {
            return null;
        }
        $object = ObjectPath::child($read->path, $column);
        $isTotal = $read->aggregated && ! isset($read->uses[$column]);
        $allowed = $reader->allowed($dimension, $by, $isTotal);
        $whose = $reader === $this->reader ? '' : $reader->subject;
        $who = Subject::show($reader->subject);
        if ($allowed->everything) {
            if ($isTotal) {
                $read->totals[] = $dimension;
            }

            return null;
        }
        if ($reader->mode($dimension) === 'refuse') {
            $inTotals = $reader->allowed($dimension, $by, true);
            $known = array_key_exists($column, $read->asked);
            $asked = $read->asked[$column] ?? null;
            if ($asked === null) {
                $level = ! $isTotal && $inTotals->everything;
                $this->refuse(new Refusal(
                    $level || $isTotal ? Refusal::LEVEL : Refusal::VALUE, $object,
                    $level ? "{$who} may see {$dimension} of {$read->path} in totals only: group and add up without naming {$column}, or ask for ".$allowed->show().' in detail.'
                        : ($known ? "Which values of {$dimension} ({$object}) are asked for depends on values that are not known." : "This asks for all values of {$dimension} ({$object})".($isTotal ? ' in a total' : '')."; {$who} may see ".$allowed->show().'.'),
                    [], $isTotal ? 'totals' : 'detail', $dimension, [], $whose, $known,
                ));
            } else {
                $missing = [];
                foreach ($asked as [$low, $high]) {
                    if ($high === null ? ! $allowed->has($low, $type) : ! $allowed->hasRange($low, $high, $type)) {
                        $missing[] = $high === null ? $low : "{$low}..{$high}";
                    }
                }
                if ($missing !== []) {
                    $this->refuse(new Refusal(Refusal::VALUE, $object, "{$who} may not see ".implode(', ', $missing)." of {$dimension} ({$object}); allowed: ".$allowed->show().'.', [], '', $dimension, $missing, $whose));
                }
            }
        }
        $condition = $allowed->predicate($column, $type);
        if ($reader->mode($dimension) === 'refuse') {
            // All that is asked for is allowed; the condition only stands guard.
            return $condition;
        }
        $shown = $this->printer->expression($condition);
        $read->left["value scope {$dimension}"] = $shown;
        $this->notes["{$read->path} scope {$dimension}"] = "The value scope {$dimension} leaves of {$read->path} the rows where {$shown}.";

        return $condition;
    }
}
