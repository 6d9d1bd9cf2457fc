<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

use Fulcrion\Core\Sql\Ast\CreateTable;
use Fulcrion\Core\Sql\Ast\Delete;
use Fulcrion\Core\Sql\Ast\Insert;
use Fulcrion\Core\Sql\Ast\Query;
use Fulcrion\Core\Sql\Ast\Statement;
use Fulcrion\Core\Sql\Ast\TableName;
use Fulcrion\Core\Sql\Ast\Update;
use Fulcrion\Core\Sql\Ast\ValuesList;

/**
 * The part of statements that reads, so that it can be run again and again without changing anything.
 */
final readonly class Reading
{
    /**
     * @return string|null null where nothing is read
     *
     * @throws SyntaxError
     */
    public static function of(string $sql, Dialect $dialect = Dialect::Ansi): ?string
    {
        $statement = (new Parser($dialect))->statement($sql);
        $printer = new Printer($dialect);
        if ($statement instanceof Update || $statement instanceof Delete) {
            return 'SELECT * FROM '.
                $printer->path($statement->table).
                ($statement->where === null ? '' : ' WHERE '.$printer->expression($statement->where));
        }
        $query = self::query($statement);

        return $query === null ? null : ($query === $statement ? $sql : $printer->statement($query));
    }

    /** A text whose values were not kept cannot be run. */
    public static function hasHiddenValues(string $sql): bool
    {
        return str_contains($sql, '?') && preg_match('~\?(?=(?:[^\']*\'[^\']*\')*[^\']*$)~', $sql) === 1;
    }

    /**
     * A query without its LIMIT, whose choice among equals is nobody's promise.
     *
     * @throws SyntaxError
     */
    public static function unlimited(string $sql, Dialect $dialect = Dialect::Ansi): string
    {
        $statement = (new Parser($dialect))->statement($sql);

        return $statement instanceof Query && ($statement->limit !== null || $statement->offset !== null)
            ? (new Printer($dialect))->statement(
                new Query($statement->at, $statement->with, $statement->recursive, $statement->body, $statement->orderBy, null, null),
            )
            : $sql;
    }

    /**
     * The statement with another table in place of one.
     *
     * @param  string  $table schema.table, small letters
     * @param  string  $schema where tables without one are looked for
     *
     * @throws SyntaxError
     */
    public static function with(string $sql, string $table, string $other, string $schema = '', Dialect $dialect = Dialect::Ansi): string
    {
        $places = [];
        foreach (Tree::nodes((new Parser($dialect))->statement($sql)) as $node) {
            if ($node instanceof TableName) {
                $parts = count($node->parts) === 1 ? [$schema, $node->parts[0]] : array_slice($node->parts, -2);
                if (strtolower(implode('.', $parts)) === $table) {
                    $places[$node->at] = $node;
                }
            }
        }
        krsort($places);
        foreach ($places as $at => $name) {
            $part = '(?:"[^"]*"|`[^`]*`|\w+)';
            $path = '~\G'.$part.'(?:\s*\.\s*'.$part.'){'.(count($name->parts) - 1).'}~u';
            if (preg_match($path, $sql, $match, 0, $at) === 1) {
                // Columns may be named by the table, so its name stays as an alias.
                $alias = $name->alias === null ? ' AS '.(new Printer($dialect))->name($name->parts[count($name->parts) - 1]) : '';
                $sql = substr_replace($sql, $other.$alias, $at, strlen($match[0]));
            }
        }

        return $sql;
    }

    /**
     * The table an INSERT of given rows writes to.
     *
     * @param  string  $schema where tables without one are
     * @return string|null schema.table in small letters; null for everything else
     *
     * @throws SyntaxError
     */
    public static function insertsInto(string $sql, string $schema = '', Dialect $dialect = Dialect::Ansi): ?string
    {
        $statement = (new Parser($dialect))->statement($sql);
        if (! ($statement instanceof Insert) || ! ($statement->source->body instanceof ValuesList)) {
            return null;
        }

        $path = count($statement->table) === 1 ? [$schema, $statement->table[0]] : array_slice($statement->table, -2);

        return strtolower(implode('.', $path));
    }

    /**
     * An INSERT of given rows into another table.
     *
     * @param  string  $other schema.table
     *
     * @throws SyntaxError
     */
    public static function into(string $sql, string $other, Dialect $dialect = Dialect::Ansi): string
    {
        $statement = (new Parser($dialect))->statement($sql);

        return $statement instanceof Insert
            ? (new Printer($dialect))->statement(
                new Insert($statement->at, explode('.', $other, 2), $statement->columns, $statement->source),
            )
            : $sql;
    }

    private static function query(Statement $statement): ?Query
    {
        return match (true) {
            $statement instanceof Query => $statement,
            $statement instanceof CreateTable => $statement->source,
            $statement instanceof Insert => $statement->source->body instanceof ValuesList ? null : $statement->source,
            default => null,
        };
    }
}
