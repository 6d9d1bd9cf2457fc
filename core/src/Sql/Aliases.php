<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

use Fulcrion\Core\Sql\Ast\Node;
use Fulcrion\Core\Sql\Ast\TableName;

/**
 * Which table each alias of a statement stands for.
 */
final readonly class Aliases
{
    /**
     * @return array<string, string> alias => table; empty where the statement cannot be read, without aliases used twice
     */
    public static function of(string $sql, Dialect $dialect): array
    {
        try {
            $found = [];
            self::collect((new Parser($dialect))->statement($sql), $found);
        } catch (SyntaxError) {
            return [];
        }

        return array_map(static fn (array $tables): string => $tables[0], array_filter($found, static fn (array $tables): bool => count(array_unique($tables)) === 1));
    }

    /**
     * @param  array<string, non-empty-list<string>>  $found
     */
    private static function collect(mixed $part, array &$found): void
    {
        if ($part instanceof TableName) {
            $table = implode('.', $part->parts);
            $found[$part->alias ?? $part->parts[count($part->parts) - 1]][] = $table;
        } elseif (is_array($part) || $part instanceof Node) {
            foreach (is_array($part) ? $part : get_object_vars($part) as $inner) {
                self::collect($inner, $found);
            }
        }
    }
}
