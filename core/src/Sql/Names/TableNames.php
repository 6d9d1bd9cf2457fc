<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Names;

use Fulcrion\Core\Sql\Ast;
use Fulcrion\Core\Sql\Tree;

/**
 * Which table a name in a statement means.
 */
final readonly class TableNames
{
    /**
     * @param  list<string>  $parts as written
     * @param  string  $schema where names without one are looked for; "" for nowhere
     * @return array{string, string}|null schema and table in small letters; null when no schema is known
     */
    public static function resolve(array $parts, string $schema): ?array
    {
        $parts = array_slice($parts, -2);
        if (count($parts) === 2) {
            return [strtolower($parts[0]), strtolower($parts[1])];
        }

        return $schema === '' || $parts === [] ? null : [strtolower($schema), strtolower($parts[0])];
    }

    /**
     * The same in one word, "schema.table", or the bare name where no schema is known.
     *
     * @param  list<string>  $parts
     */
    public static function path(array $parts, string $schema): string
    {
        return implode('.', self::resolve($parts, $schema) ?? [strtolower($parts[count($parts) - 1] ?? '')]);
    }

    /** What columns of a table are named by. */
    public static function alias(Ast\TableName $table): string
    {
        return strtolower($table->alias ?? $table->parts[count($table->parts) - 1]);
    }

    /**
     * Which of the tables of a select a column is of, for advice: the first that has it, since statements in which a name
     * could mean two do not run.
     *
     * @param  array<string, string|null>  $scope alias => schema.table; null for what is none
     * @param  array<string, array<string, mixed>>  $tables schema.table => column => anything, all in small letters
     * @return string|null alias
     */
    public static function owner(Ast\ColumnName $column, array $scope, array $tables): ?string
    {
        $name = strtolower($column->parts[count($column->parts) - 1]);
        $qualifier = count($column->parts) > 1 ? strtolower($column->parts[count($column->parts) - 2]) : null;
        foreach ($scope as $alias => $table) {
            if (($qualifier === null || $qualifier === $alias) && isset($tables[$table][$name])) {
                return $alias;
            }
        }

        return null;
    }

    /** A query in which every table is named with its schema, so that it means the same wherever it is read. */
    public static function qualified(Ast\Query $query, string $schema): Ast\Query
    {
        $mapped = self::within($query, $schema, []);
        assert($mapped instanceof Ast\Query);

        return $mapped;
    }

    /**
     * @param  array<string, true>  $common names of common tables in force
     */
    private static function within(Ast\Node $node, string $schema, array $common): Ast\Node
    {
        return Tree::map($node, static function (Ast\Node $part) use ($node, $schema, $common): ?Ast\Node {
            if ($part instanceof Ast\TableName) {
                $name =
                    count($part->parts) === 1 && ! ($part->asOf === null && isset($common[strtolower($part->parts[0])]))
                        ? self::resolve($part->parts, $schema)
                        : null;

                // Columns may be named by the table, so its name stays as an alias.
                return $name === null
                    ? null
                    : new Ast\TableName($part->at, $name, $part->alias ?? $part->parts[0], $part->columns, $part->asOf);
            }
            if ($part instanceof Ast\Query && ($part !== $node || $part->with !== [])) {
                $with = [];
                foreach ($part->with as $table) {
                    $inner = self::within($table->query, $schema, $common);
                    assert($inner instanceof Ast\Query);
                    $with[] = new Ast\CommonTable($table->at, $table->name, $table->columns, $inner);
                    $common[strtolower($table->name)] = true;
                }
                $rest = self::within(
                    new Ast\Query($part->at, [], false, $part->body, $part->orderBy, $part->limit, $part->offset),
                    $schema,
                    $common,
                );
                assert($rest instanceof Ast\Query);

                return new Ast\Query($part->at, $with, $part->recursive, $rest->body, $rest->orderBy, $rest->limit, $rest->offset);
            }

            return null;
        });
    }

    /**
     * All tables a statement names, targets of changes among them, common tables not.
     *
     * @return list<list<string>> parts as written
     */
    public static function of(Ast\Statement $statement): array
    {
        $found = [];
        foreach (Tree::nodes($statement) as $node) {
            match (true) {
                $node instanceof Ast\TableName => ($found[] = $node->parts),
                $node instanceof Ast\Insert,
                $node instanceof Ast\Update,
                $node instanceof Ast\Delete,
                $node instanceof Ast\Copy,
                $node instanceof Ast\Analyze,
                $node instanceof Ast\Maintain => ($found[] = $node->table),
                $node instanceof Ast\CreateTable,
                $node instanceof Ast\CreateView,
                $node instanceof Ast\CreateRollup,
                $node instanceof Ast\Refresh => ($found[] = $node->name),
                $node instanceof Ast\Drop => ($found[] = $node->kind === 'SCHEMA' ? [...$node->name, ''] : $node->name),
                $node instanceof Ast\CreateSchema => ($found[] = [$node->name, '']),
                $node instanceof Ast\Rename => array_push(
                    $found,
                    ...array_map(static fn (array $pair): array => $pair[0], $node->pairs),
                    ...array_map(static fn (array $pair): array => [...array_slice($pair[0], 0, -1), $pair[1]], $node->pairs),
                ),
                default => null,
            };
        }

        return $found;
    }
}
