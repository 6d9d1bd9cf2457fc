<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

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
            foreach (Tree::nodes((new Parser($dialect))->statement($sql)) as $node) {
                if ($node instanceof TableName) {
                    $found[$node->alias ?? $node->parts[count($node->parts) - 1]][] = implode('.', $node->parts);
                }
            }
        } catch (SyntaxError) {
            return [];
        }

        return array_map(
            static fn (array $tables): string => $tables[0],
            array_filter($found, static fn (array $tables): bool => count(array_unique($tables)) === 1),
        );
    }
}
