<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

use Fulcrion\Core\Sql\Ast\Call;
use Fulcrion\Core\Sql\Ast\Node;
use Fulcrion\Core\Sql\Ast\Query;

/**
 * Which functions look at many rows. The one list of them: deciders, advisers and the practice cluster go by it.
 */
final readonly class Aggregates
{
    /** Those whose result adds up many values and shows none of them. */
    public const SUMS = [
        'count',
        'sum',
        'avg',
        'approx_count_distinct',
        'stddev',
        'stddev_pop',
        'stddev_samp',
        'std',
        'variance',
        'var_pop',
        'var_samp',
    ];

    /** Those that every dialect here has, that the practice cluster computes and that rollups can hold. */
    public const PLAIN = ['count', 'sum', 'avg', 'min', 'max', 'approx_count_distinct'];

    /** Those that show single values. */
    private const SHOWING = [
        'min',
        'max',
        'group_concat',
        'string_agg',
        'listagg',
        'array_agg',
        'json_arrayagg',
        'json_objectagg',
        'any_value',
        'median',
        'mode',
        'percentile_cont',
        'percentile_disc',
        'first_value',
        'last_value',
        'bit_and',
        'bit_or',
        'bit_xor',
        'bool_and',
        'bool_or',
        'every',
    ];

    /** Whether a call folds rows of a group, and is no window function. */
    public static function is(Call $call): bool
    {
        return $call->over === null && self::isName($call->name);
    }

    public static function isName(string $name): bool
    {
        return in_array($name, self::SUMS, true) || in_array($name, self::SHOWING, true);
    }

    /**
     * The outermost aggregates, without those inside nested queries.
     *
     * @return list<Call>
     */
    public static function in(mixed $part): array
    {
        if ($part instanceof Query) {
            return [];
        }
        if ($part instanceof Call && self::is($part)) {
            return [$part];
        }
        $found = [];
        foreach (is_array($part) ? $part : ($part instanceof Node ? get_object_vars($part) : []) as $inner) {
            array_push($found, ...self::in($inner));
        }

        return $found;
    }
}
