<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Expression;

use Fulcrion\Core\Catalog\TypeKind;

/**
 * Which expressions can fail on some values. Whoever may not see a row must not learn of it by an error, so these are not
 * evaluated on rows that a join of a view would have left out.
 */
final readonly class Failing
{
    private const SAFE = [
        'eq',
        'ne',
        'lt',
        'le',
        'gt',
        'ge',
        'same',
        'and',
        'or',
        'not',
        'isnull',
        'in',
        'like',
        'concat',
        'coalesce',
        'case',
        'if',
        'nullif',
        'greatest',
        'least',
        'upper',
        'lower',
        'length',
        'char_length',
        'substring',
        'left',
        'right',
        'trim',
        'ltrim',
        'rtrim',
        'replace',
        'position',
        'starts_with',
        'reverse',
        'date_trunc',
        'extract',
        'keyed_hash',
        'known',
        'lookup',
        'datediff',
        'sign',
        'mod',
        'sqrt',
        'ln',
    ];

    public static function can(Expr $e): bool
    {
        if ($e instanceof Op && ! in_array($e->name, self::SAFE, true) && ! self::isSafeCast($e)) {
            return true;
        }
        foreach ($e->parts() as $part) {
            if (self::can($part)) {
                return true;
            }
        }

        return $e->hasSubquery();
    }

    /** Texts may not be what they are cast to, and large numbers do not fit into whole ones. */
    private static function isSafeCast(Op $e): bool
    {
        return $e->name === 'cast' && ($e->type->is(TypeKind::Text) || ! $e->args[0]->type->is(TypeKind::Text, TypeKind::Double));
    }
}
