<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans\Rules;

use Fulcrion\Core\Sql\Ast\Binary;
use Fulcrion\Core\Sql\Ast\Call;
use Fulcrion\Core\Sql\Ast\Cast;
use Fulcrion\Core\Sql\Ast\ColumnName;
use Fulcrion\Core\Sql\Ast\Expression;
use Fulcrion\Core\Sql\Ast\Extract;

/**
 * Whether an expression reads a column.
 *
 * @internal
 */
final class Mentions
{
    public static function column(Expression $e, string $column): bool
    {
        return match (true) {
            $e instanceof ColumnName => $e->parts[count($e->parts) - 1] === $column,
            $e instanceof Call => array_filter($e->arguments, static fn (Expression $argument): bool =>
                self::column($argument, $column)) !==
                [],
            $e instanceof Cast, $e instanceof Extract => self::column($e->value, $column),
            $e instanceof Binary => self::column($e->left, $column) || self::column($e->right, $column),
            default => false,
        };
    }
}
