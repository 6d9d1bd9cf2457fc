<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

use Fulcrion\Core\Sql\Ast\CreateRollup;
use Fulcrion\Core\Sql\Ast\Query;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\Printer;
use Fulcrion\Core\Sql\Reading;
use Fulcrion\Core\Sql\SyntaxError;

/**
 * The statements that change how a table is stored.
 */
final readonly class TableSteps
{
    /**
     * @param  string  $table schema.table that is read
     * @param  string  $built schema.table that is made
     * @param  list<string>  $statistics columns that have them
     * @return list<string>
     */
    public static function build(TableDefinition $definition, string $table, string $built, array $statistics): array
    {
        $printer = new Printer();

        return [
            $definition->toSql(self::path($built)),
            'INSERT INTO '.self::path($built).' SELECT * FROM '.self::path($table),
            ...$statistics === []
                ? []
                : ['ANALYZE TABLE '.self::path($built).' ('.implode(', ', array_map($printer->name(...), $statistics)).')'],
        ];
    }

    /**
     * Whether a statement makes a rollup or lookup.
     *
     * @throws SyntaxError
     */
    public static function makesRollup(string $sql): bool
    {
        return (new Parser())->statement($sql) instanceof CreateRollup;
    }

    /** Both names at once: readers find either the old table or the new one. */
    public static function swap(string $table, string $kept, string $built): string
    {
        return 'RENAME TABLE '.self::path($table).' TO '.self::name($kept).', '.self::path($built).' TO '.self::name($table);
    }

    public static function drop(string $table): string
    {
        return 'DROP TABLE IF EXISTS '.self::path($table);
    }

    /**
     * A step for a copy of its table; what it makes beside it is made in the schema of the copy.
     *
     * @param  string  $copy schema.table
     *
     * @throws SyntaxError
     */
    public static function elsewhere(string $sql, string $table, string $copy, string $schema): string
    {
        $statement = (new Parser())->statement($sql);
        if (! ($statement instanceof CreateRollup)) {
            return str_replace(self::path($table), $copy, $sql);
        }
        $query = (new Parser())->statement(Reading::with((new Printer())->statement($statement->query), $table, $copy));
        assert($query instanceof Query);

        return (new Printer())->statement(
            new CreateRollup(
                $statement->at,
                $statement->kind,
                [$schema, $statement->name[count($statement->name) - 1]],
                $statement->options,
                $query,
                $statement->orReplace,
            ),
        );
    }

    public static function path(string $table): string
    {
        return (new Printer())->path(explode('.', $table, 2));
    }

    private static function name(string $table): string
    {
        return (new Printer())->name(explode('.', $table, 2)[1] ?? $table);
    }
}
