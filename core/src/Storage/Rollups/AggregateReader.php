<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rollups;

use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Sql\Aggregates;
use Fulcrion\Core\Sql\Ast;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Names\TableNames;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\Printer;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Core\Sql\Tree;
use Fulcrion\Core\Storage\LiteralValue;

/**
 * Reads from the text of a statement what its groupings need to know of the table their measures come from.
 */
final readonly class AggregateReader
{
    private const DAY_US = 86_400_000_000;

    /** What part of a moment extract() tells, and the coarsest unit that still tells it. */
    private const EXTRACTS = [
        'hour' => 'hour',
        'minute' => 'minute',
        'second' => 'second',
        'dow' => 'day',
        'isodow' => 'day',
        'day' => 'day',
        'doy' => 'day',
        'week' => 'day',
        'month' => 'month',
        'quarter' => 'quarter',
        'year' => 'year',
    ];

    private Parser $parser;

    /**
     * @param  array<string, array<string, ColumnType>>  $tables schema.table => column => type, all in small letters
     */
    public function __construct(private array $tables, Dialect $dialect = Dialect::Ansi)
    {
        $this->parser = new Parser($dialect);
    }

    /**
     * @return list<AggregateUse|string> one for each grouping; in words why it cannot be answered from a rollup
     */
    public function read(string $sql, string $schema, string $statement, float $executions): array
    {
        try {
            $tree = $this->parser->statement($sql);
        } catch (SyntaxError) {
            return [];
        }
        $uses = [];
        foreach (Tree::nodes($tree) as $node) {
            if ($node instanceof Ast\Select && ($node->groupBy !== [] || $this->measuresIn([$node->items, $node->having]) !== [])) {
                array_push($uses, ...$this->select($node, $schema, $statement, $executions));
            }
        }

        return $uses;
    }

    /**
     * @return list<AggregateUse|string> of the table the measures come from, then of those it is joined with
     */
    private function select(Ast\Select $s, string $schema, string $statement, float $executions): array
    {
        $scope = $conditions = [];
        $plain = $s->from !== null && $this->from($s->from, $schema, $scope, $conditions);
        if ($scope === [] || $s->grouping !== null) {
            return [];
        }
        if (! $plain) {
            return ['it joins otherwise than by inner joins of tables'];
        }
        if (count(array_unique($scope)) < count($scope)) {
            return ['it reads a table twice'];
        }
        array_push($conditions, ...$s->where === null ? [] : self::conjuncts($s->where));
        foreach (Tree::nodes([$conditions, $s->groupBy, $s->items, $s->having]) as $node) {
            if ($node instanceof Ast\Query) {
                return ['it has a subquery'];
            }
        }
        $measures = $this->measuresIn([$s->items, $s->having]);
        $fact = $this->fact($measures, $scope);
        if ($fact === null) {
            return ['its measures come from several tables'];
        }
        foreach ($measures as $call) {
            $of = $this->owners([$call->arguments, $call->filter], $scope);
            if (count($of) > 1 && ! in_array($call->name, ['min', 'max'], true)) {
                return ['a measure mixes columns of several tables'];
            }
        }
        $uses = [];
        // What the measures are not of can be counted beforehand too: each of its groups stands for so many rows.
        foreach ([$fact, ...array_values(array_diff(array_map(strval(...), array_keys($scope)), [$fact]))] as $alias) {
            $uses[] = $this->of($alias, $s, $scope, $conditions, $measures, $statement, $executions);
        }

        return $uses;
    }

    /**
     * What has to be known of one of the tables.
     *
     * @param  array<string, string>  $scope
     * @param  list<Ast\Expression>  $conditions
     * @param  list<Ast\Call>  $measures
     */
    private function of(
        string $fact,
        Ast\Select $s,
        array $scope,
        array $conditions,
        array $measures,
        string $statement,
        float $executions,
    ): AggregateUse|string {
        /** @var array<string, Dimension> $needs */
        $needs = [];
        $keys = $joined = [];
        foreach ($s->groupBy as $e) {
            $e = $e instanceof Ast\NumberLiteral ? $s->items[(int) $e->text - 1]->value ?? $e : $e;
            foreach ($s->items as $item) {
                $e =
                    $e instanceof Ast\ColumnName &&
                    count($e->parts) === 1 &&
                    $item->alias === $e->parts[0] &&
                    TableNames::owner($e, $scope, $this->tables) === null
                        ? $item->value
                        : $e;
            }
            $this->need($e, $fact, $scope, $needs);
        }
        foreach ($conditions as $e) {
            $unit = $this->span($e, $fact, $scope);
            if (is_string($unit)) {
                return 'it asks for moments that are not on the minute';
            }
            if ($unit !== null) {
                $needs[$unit->key()] = $unit;

                continue;
            }
            $this->need($e, $fact, $scope, $needs);
            foreach ($this->owners($e, $scope) as $owner) {
                if ($owner !== $fact) {
                    $joined[$scope[$owner]] = true;
                }
            }
        }
        foreach ($measures as $call) {
            $own = $this->owners([$call->arguments, $call->filter], $scope) === [$fact];
            if ($call->distinct && $call->name !== 'min' && $call->name !== 'max') {
                $this->need($call->arguments, $fact, $scope, $needs);
            } elseif ($own) {
                $keys[$this->bare($call)] = true;
            } else {
                $this->need([$call->arguments, $call->filter], $fact, $scope, $needs);
            }
        }

        return new AggregateUse($statement, $executions, $scope[$fact], array_values($needs), array_keys($keys), array_keys($joined));
    }

    /**
     * Aliases whose columns occur.
     *
     * @param  array<string, string>  $scope
     * @return list<string>
     */
    private function owners(mixed $part, array $scope): array
    {
        return array_values(
            array_unique(
                array_filter(
                    array_map(fn (Ast\ColumnName $c): ?string => TableNames::owner($c, $scope, $this->tables), $this->columns($part)),
                    static fn (?string $one): bool => $one !== null,
                ),
            ),
        );
    }

    /**
     * Takes apart what is read; false where it is joined in a way rollups cannot stand in.
     *
     * @param  array<string, string>  $scope alias => table
     * @param  list<Ast\Expression>  $conditions
     */
    private function from(Ast\Relation $r, string $schema, array &$scope, array &$conditions): bool
    {
        if ($r instanceof Ast\TableName) {
            $name = TableNames::path($r->parts, $schema);
            $scope[TableNames::alias($r)] = $name;

            return isset($this->tables[$name]) && $r->asOf === null;
        }
        if (! ($r instanceof Ast\Join)) {
            return false;
        }
        $good = $this->from($r->left, $schema, $scope, $conditions);
        $good = $this->from($r->right, $schema, $scope, $conditions) && $good;
        array_push($conditions, ...$r->on === null ? [] : self::conjuncts($r->on));
        foreach ($r->using as $name) {
            // Each side's column is needed; unqualified, the first table that has it counts.
            foreach ($scope as $alias => $table) {
                if (isset($this->tables[$table][strtolower($name)])) {
                    $conditions[] = new Ast\ColumnName($r->at, [$alias, $name]);
                }
            }
        }

        return $good && ! $r->natural && in_array($r->kind, [Ast\JoinKind::Inner, Ast\JoinKind::Cross], true);
    }

    /**
     * The table the measures are of; where none is of any, the one with most columns used.
     *
     * @param  list<Ast\Call>  $measures
     * @param  array<string, string>  $scope
     */
    private function fact(array $measures, array $scope): ?string
    {
        $owners = [];
        foreach ($measures as $call) {
            foreach ($this->columns([$call->arguments, $call->filter]) as $c) {
                $owner = TableNames::owner($c, $scope, $this->tables);
                if ($owner !== null) {
                    $owners[$owner] = ($owners[$owner] ?? 0) + 1;
                }
            }
        }
        if ($owners === []) {
            return array_key_first($scope);
        }
        arsort($owners);

        return array_key_first($owners);
    }

    /**
     * @param  array<string, string>  $scope
     * @param  array<string, Dimension>  $needs
     */
    private function need(mixed $part, string $fact, array $scope, array &$needs): void
    {
        if ($part instanceof Ast\ColumnName) {
            if (TableNames::owner($part, $scope, $this->tables) === $fact) {
                $name = strtolower($part->parts[count($part->parts) - 1]);
                $needs[$name] = new Dimension($name);
            }

            return;
        }
        $unit = $part instanceof Ast\Expression ? $this->unit($part, $fact, $scope) : null;
        if ($unit !== null) {
            $needs[$unit->key()] = $unit;

            return;
        }
        if (is_array($part) || $part instanceof Ast\Node) {
            foreach (is_array($part) ? $part : get_object_vars($part) as $inner) {
                $this->need($inner, $fact, $scope, $needs);
            }
        }
    }

    /**
     * A moment cut to a unit, as date_trunc, a cast to a date or extract do.
     *
     * @param  array<string, string>  $scope
     */
    private function unit(Ast\Expression $e, string $fact, array $scope): ?Dimension
    {
        [$of, $unit] = match (true) {
            $e instanceof Ast\Call && $e->name === 'date_trunc' && ($e->arguments[0] ?? null) instanceof Ast\TextLiteral => [
                $e->arguments[1] ?? null,
                strtolower($e->arguments[0]->value),
            ],
            $e instanceof Ast\Cast && $e->type->name === 'date' => [$e->value, 'day'],
            $e instanceof Ast\Extract => [$e->value, self::EXTRACTS[strtolower($e->unit)] ?? ''],
            default => [null, ''],
        };
        $type = $of instanceof Ast\ColumnName ? $this->typeOf($of, $fact, $scope) : null;

        return $of instanceof Ast\ColumnName && $type?->is(TypeKind::Timestamp) === true && isset(Dimension::UNITS[$unit])
            ? new Dimension(strtolower($of->parts[count($of->parts) - 1]), $unit)
            : null;
    }

    /**
     * What a span of a moment needs; '' where its ends are not on the minute; null where it is no such span.
     *
     * @param  array<string, string>  $scope
     */
    private function span(Ast\Expression $e, string $fact, array $scope): Dimension|string|null
    {
        $ends = match (true) {
            $e instanceof Ast\Between && ! $e->negated => [$e->value, [[$e->low, 0], [$e->high, 1]]],
            $e instanceof Ast\Binary && in_array($e->operator, ['>=', '<'], true) => $e->left instanceof Ast\ColumnName
                ? [$e->left, [[$e->right, 0]]]
                : [$e->right, [[$e->left, 1]]],
            $e instanceof Ast\Binary && in_array($e->operator, ['<=', '>'], true) => $e->left instanceof Ast\ColumnName
                ? [$e->left, [[$e->right, 1]]]
                : [$e->right, [[$e->left, 0]]],
            default => null,
        };
        $column = $ends[0] ?? null;
        $type = $column instanceof Ast\ColumnName ? $this->typeOf($column, $fact, $scope) : null;
        if ($ends === null || ! ($column instanceof Ast\ColumnName) || $type?->is(TypeKind::Timestamp) !== true) {
            return null;
        }
        $found = 'day';
        foreach ($ends[1] as [$end, $plus]) {
            $us = LiteralValue::of($end, $type);
            if (! is_int($us)) {
                return null;
            }
            $us += $plus;
            $unit = match (true) {
                $us % self::DAY_US === 0 => 'day',
                $us % 3_600_000_000 === 0 => 'hour',
                $us % 60_000_000 === 0 => 'minute',
                default => '',
            };
            // The single moment an inclusive end adds, and the ends of a range with whole days inside, are read from the table.
            if ($unit === '' && $plus === 1 && ($us - 1) % self::DAY_US === 0) {
                continue;
            }
            if (! in_array($unit, ['day', 'hour'], true) && $this->holdsDays($ends[1], $type)) {
                continue;
            }
            if ($unit === '') {
                return '';
            }
            $found = Dimension::SECONDS[$unit] < Dimension::SECONDS[$found] ? $unit : $found;
        }

        return new Dimension(strtolower($column->parts[count($column->parts) - 1]), $found);
    }

    /**
     * @param  list<array{Ast\Expression, int}>  $ends
     */
    private function holdsDays(array $ends, ColumnType $type): bool
    {
        [$from, $to] = [LiteralValue::of($ends[0][0], $type), isset($ends[1]) ? LiteralValue::of($ends[1][0], $type) : null];

        return is_int($from) && is_int($to) && $to - $from >= 3 * self::DAY_US;
    }

    /**
     * @param  array<string, string>  $scope
     */
    private function typeOf(Ast\ColumnName $c, string $fact, array $scope): ?ColumnType
    {
        return TableNames::owner($c, $scope, $this->tables) === $fact
            ? $this->tables[$scope[$fact]][strtolower($c->parts[count($c->parts) - 1])] ?? null
            : null;
    }

    /** A measure with columns by their bare names. */
    private function bare(Ast\Call $call): string
    {
        $bare = Tree::map(
            $call,
            static fn (Ast\Node $node): ?Ast\Node => $node instanceof Ast\ColumnName
                ? new Ast\ColumnName($node->at, [strtolower($node->parts[count($node->parts) - 1])])
                : null,
        );
        assert($bare instanceof Ast\Expression);

        return (new Printer())->expression($bare);
    }

    /**
     * @return list<Ast\Call>
     */
    private function measuresIn(mixed $part): array
    {
        if ($part instanceof Ast\Call && $part->over === null && in_array($part->name, Aggregates::PLAIN, true)) {
            return [$part];
        }
        $found = [];
        if (is_array($part) || ($part instanceof Ast\Node && ! ($part instanceof Ast\Query))) {
            foreach (is_array($part) ? $part : get_object_vars($part) as $inner) {
                array_push($found, ...$this->measuresIn($inner));
            }
        }

        return $found;
    }

    /**
     * @return list<Ast\ColumnName>
     */
    private function columns(mixed $part): array
    {
        return array_values(
            array_filter(iterator_to_array(Tree::nodes($part), false), static fn (Ast\Node $node): bool => $node instanceof Ast\ColumnName),
        );
    }

    /**
     * @return list<Ast\Expression>
     */
    private static function conjuncts(Ast\Expression $e): array
    {
        return $e instanceof Ast\Binary && $e->operator === 'AND' ? [...self::conjuncts($e->left), ...self::conjuncts($e->right)] : [$e];
    }
}
