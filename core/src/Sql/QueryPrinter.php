<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

use Fulcrion\Core\Sql\Ast\Analyze;
use Fulcrion\Core\Sql\Ast\Copy;
use Fulcrion\Core\Sql\Ast\CreateSchema;
use Fulcrion\Core\Sql\Ast\CreateTable;
use Fulcrion\Core\Sql\Ast\CreateView;
use Fulcrion\Core\Sql\Ast\Delete;
use Fulcrion\Core\Sql\Ast\DerivedTable;
use Fulcrion\Core\Sql\Ast\Drop;
use Fulcrion\Core\Sql\Ast\Explain;
use Fulcrion\Core\Sql\Ast\Expression;
use Fulcrion\Core\Sql\Ast\Insert;
use Fulcrion\Core\Sql\Ast\Join;
use Fulcrion\Core\Sql\Ast\JoinKind;
use Fulcrion\Core\Sql\Ast\LayoutClauses;
use Fulcrion\Core\Sql\Ast\Maintain;
use Fulcrion\Core\Sql\Ast\NestedQuery;
use Fulcrion\Core\Sql\Ast\Privileges;
use Fulcrion\Core\Sql\Ast\Query;
use Fulcrion\Core\Sql\Ast\QueryBody;
use Fulcrion\Core\Sql\Ast\Relation;
use Fulcrion\Core\Sql\Ast\Rename;
use Fulcrion\Core\Sql\Ast\Select;
use Fulcrion\Core\Sql\Ast\SelectItem;
use Fulcrion\Core\Sql\Ast\SetOperation;
use Fulcrion\Core\Sql\Ast\Statement;
use Fulcrion\Core\Sql\Ast\TableCall;
use Fulcrion\Core\Sql\Ast\TableName;
use Fulcrion\Core\Sql\Ast\TableOption;
use Fulcrion\Core\Sql\Ast\Update;
use Fulcrion\Core\Sql\Ast\ValuesList;
use LogicException;

/**
 * The statements' half of the printer.
 *
 * @internal
 */
final readonly class QueryPrinter
{
    public function __construct(private Printer $printer)
    {
    }

    public function statement(Statement $s): string
    {
        $p = $this->printer;

        return match (true) {
            $s instanceof Query => $this->query($s),
            $s instanceof Explain => 'EXPLAIN '.($s->run ? 'ANALYZE ' : '').$this->statement($s->statement),
            $s instanceof CreateSchema => 'CREATE SCHEMA '.($s->unlessThere ? 'IF NOT EXISTS ' : '').$p->name($s->name),
            $s instanceof CreateTable => $this->createTable($s),
            $s instanceof CreateView => 'CREATE '.
                ($s->orReplace ? 'OR REPLACE ' : '').
                'VIEW '.
                $p->path($s->name).
                $this->names($s->columns).
                ' AS '.
                $this->query($s->query),
            $s instanceof \Fulcrion\Core\Sql\Ast\CreateRollup => 'CREATE '.
                ($s->orReplace ? 'OR REPLACE ' : '').
                "{$s->kind} ".
                $p->path($s->name).
                $this->options($s->options).
                ' AS '.
                $this->query($s->query),
            $s instanceof \Fulcrion\Core\Sql\Ast\Refresh => "REFRESH {$s->kind} ".$p->path($s->name),
            $s instanceof Insert => 'INSERT INTO '.$p->path($s->table).$this->names($s->columns).' '.$this->query($s->source),
            $s instanceof Copy => 'COPY '.
                $p->path($s->table).
                $this->names($s->columns).
                ' FROM '.
                $p->text($s->path).
                $this->options($s->options),
            $s instanceof Update => 'UPDATE '.
                $p->path($s->table).
                ($s->alias === null ? '' : ' AS '.$p->name($s->alias)).
                ' SET '.
                implode(
                    ', ',
                    array_map(static fn (array $set): string => $p->name($set[0]).' = '.$p->expression($set[1]), $s->assignments),
                ).
                $this->clause('WHERE', $s->where),
            $s instanceof Delete => 'DELETE FROM '.
                $p->path($s->table).
                ($s->alias === null ? '' : ' AS '.$p->name($s->alias)).
                $this->clause('WHERE', $s->where),
            $s instanceof Drop => "DROP {$s->kind} ".($s->ifThere ? 'IF EXISTS ' : '').$p->path($s->name),
            $s instanceof Rename => count($s->pairs) === 1
                ? 'ALTER TABLE '.$p->path($s->pairs[0][0]).' RENAME TO '.$p->name($s->pairs[0][1])
                : 'RENAME TABLE '.
                    implode(', ', array_map(static fn (array $pair): string => $p->path($pair[0]).' TO '.$p->name($pair[1]), $s->pairs)),
            $s instanceof Maintain => 'MAINTAIN TABLE '.$p->path($s->table).$this->options($s->options),
            $s instanceof Analyze => 'ANALYZE '.$p->path($s->table).$this->names($s->columns),
            $s instanceof Privileges => ($s->grants ? 'GRANT ' : 'REVOKE ').
                implode(', ', array_map(static fn (string $name): string => ctype_upper($name) ? $name : $p->name($name), $s->privileges)).
                ($s->object === [] ? '' : ' ON '.($s->kind === null ? '' : $s->kind.' ').$p->path($s->object)).
                ($s->grants ? ' TO ' : ' FROM ').
                implode(', ', array_map($p->name(...), $s->grantees)).
                ($s->withOption ? ' WITH GRANT OPTION' : ''),
            default => throw new LogicException($s::class),
        };
    }

    private function query(Query $q): string
    {
        $p = $this->printer;
        $text = '';
        if ($q->with !== []) {
            $text =
                'WITH '.
                ($q->recursive ? 'RECURSIVE ' : '').
                implode(
                    ', ',
                    array_map(
                        fn (\Fulcrion\Core\Sql\Ast\CommonTable $table): string => $p->name($table->name).
                            $this->names($table->columns).
                            ' AS ('.
                            $this->query($table->query).
                            ')',
                        $q->with,
                    ),
                ).
                ' ';
        }

        return $text.
            $this->body($q->body).
            ($q->orderBy === [] ? '' : ' ORDER BY '.$p->sortKeys($q->orderBy)).
            $this->clause('LIMIT', $q->limit).
            $this->clause('OFFSET', $q->offset);
    }

    private function body(QueryBody $b): string
    {
        $p = $this->printer;
        if ($b instanceof NestedQuery) {
            return '('.$this->query($b->query).')';
        }
        if ($b instanceof ValuesList) {
            return 'VALUES '.implode(', ', array_map(static fn (array $row): string => '('.$p->list($row).')', $b->rows));
        }
        if ($b instanceof SetOperation) {
            $left =
                $b->left instanceof SetOperation && $b->operator === 'INTERSECT' && $b->left->operator !== 'INTERSECT'
                    ? '('.$this->body($b->left).')'
                    : $this->body($b->left);
            $right =
                $b->right instanceof SetOperation && ! ($b->right->operator === 'INTERSECT' && $b->operator !== 'INTERSECT')
                    ? '('.$this->body($b->right).')'
                    : $this->body($b->right);

            return "{$left} {$b->operator}".($b->all ? ' ALL' : '')." {$right}";
        }
        if (! ($b instanceof Select)) {
            throw new LogicException($b::class);
        }
        $items = array_map(
            static fn (SelectItem $item): string => $p->expression($item->value).
                ($item->alias === null ? '' : ' AS '.$p->name($item->alias)),
            $b->items,
        );
        $groups = $p->list($b->groupBy);
        $windows = [];
        foreach ($b->windows as $name => $over) {
            $windows[] = $p->name($name).' AS '.$p->over($over);
        }

        return 'SELECT '.
            ($b->distinct ? 'DISTINCT ' : '').
            implode(', ', $items).
            ($b->from === null ? '' : ' FROM '.$this->relation($b->from)).
            $this->clause('WHERE', $b->where).
            ($b->groupBy === [] && $b->grouping === null
                ? ''
                : ' GROUP BY '.($b->grouping === null ? $groups : "{$b->grouping} ({$groups})")).
            $this->clause('HAVING', $b->having).
            ($windows === [] ? '' : ' WINDOW '.implode(', ', $windows)).
            $this->clause('QUALIFY', $b->qualify);
    }

    private function relation(Relation $r): string
    {
        $p = $this->printer;
        if ($r instanceof TableName) {
            return $p->path($r->parts).$this->clause('FOR SYSTEM_TIME AS OF', $r->asOf).$this->alias($r->alias, $r->columns);
        }
        if ($r instanceof DerivedTable) {
            return ($r->lateral ? 'LATERAL ' : '').'('.$this->query($r->query).')'.$this->alias($r->alias, $r->columns);
        }
        if ($r instanceof TableCall) {
            return $p->expression($r->call).$this->alias($r->alias, []);
        }
        if (! ($r instanceof Join)) {
            throw new LogicException($r::class);
        }
        $right = $r->right instanceof Join ? '('.$this->relation($r->right).')' : $this->relation($r->right);

        return $this->relation($r->left).
            ($r->natural ? ' NATURAL' : '').
            ($r->kind === JoinKind::Inner ? '' : " {$r->kind->value}").
            " JOIN {$right}".
            $this->clause('ON', $r->on).
            ($r->using === [] ? '' : ' USING'.$this->names($r->using));
    }

    /**
     * @param  list<string>  $columns
     */
    private function alias(?string $alias, array $columns): string
    {
        return $alias === null ? '' : ' AS '.$this->printer->name($alias).$this->names($columns);
    }

    /**
     * @param  list<string>  $names
     */
    private function names(array $names): string
    {
        return $names === [] ? '' : ' ('.implode(', ', array_map($this->printer->name(...), $names)).')';
    }

    private function clause(string $word, ?Expression $e): string
    {
        return $e === null ? '' : " {$word} ".$this->printer->expression($e);
    }

    private function createTable(CreateTable $s): string
    {
        $p = $this->printer;
        $columns = array_map(
            static fn (\Fulcrion\Core\Sql\Ast\ColumnDefinition $column): string => $p->name($column->name).
                ' '.
                $p->type($column->type).
                ($column->notNull ? ' NOT NULL' : ''),
            $s->columns,
        );

        return 'CREATE '.
            ($s->orReplace ? 'OR REPLACE ' : '').
            'TABLE '.
            ($s->unlessThere ? 'IF NOT EXISTS ' : '').
            $p->path($s->name).
            ($columns === [] ? '' : ' ('.implode(', ', $columns).')').
            ($s->layout === null ? '' : ' '.$this->layout($s->layout)).
            ($s->source === null ? '' : ' AS '.$this->query($s->source));
    }

    /** Clauses in the order they are explained in. */
    public function layout(LayoutClauses $l): string
    {
        $p = $this->printer;
        $cut = static fn (string $column): string => is_int($l->cutSpan)
            ? "CUT EVERY {$l->cutSpan} OF {$column}"
            : 'CUT BY '.strtoupper($l->cutSpan ?? 'value')." OF {$column}";
        $encoded = array_map(
            static fn (string $column, string $encoding): string => $p->name($column)." AS {$encoding}",
            array_map(strval(...), array_keys($l->encoded)),
            $l->encoded,
        );

        return implode(
            ' ',
            array_filter(
                [
                    $l->placed === null
                        ? ''
                        : "PLACED {$l->placed}".
                            ($l->placed === LayoutClauses::BY ? ' ('.implode(', ', array_map($p->name(...), $l->placedBy)).')' : ''),
                    $l->cutColumn === null ? '' : $cut($p->name($l->cutColumn)),
                    $l->sortedBy === []
                        ? ''
                        : 'SORTED BY '.
                            ($l->curve === '' ? '' : "{$l->curve} ").
                            '('.
                            implode(', ', array_map($p->name(...), $l->sortedBy)).
                            ')',
                    $l->chunkRows === null ? '' : "CHUNKS OF {$l->chunkRows} ROWS",
                    $encoded === [] ? '' : 'ENCODED ('.implode(', ', $encoded).')',
                    $l->packed === null ? '' : 'PACKED '.preg_replace('~(?<=[a-z])(?=\\d)~', ' ', $l->packed),
                ],
                static fn (string $clause): bool => $clause !== '',
            ),
        );
    }

    /**
     * @param  list<TableOption>  $options
     */
    private function options(array $options): string
    {
        $p = $this->printer;

        return $options === []
            ? ''
            : ' WITH ('.
                    implode(
                        ', ',
                        array_map(
                            static fn (TableOption $option): string => $p->name($option->name).
                                ' = '.
                                (count($option->values) === 1 ? $p->expression($option->values[0]) : '('.$p->list($option->values).')'),
                            $options,
                        ),
                    ).
                    ')';
    }
}
