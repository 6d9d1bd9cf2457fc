<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statements;

/**
 * What a total grew by beyond the parts that are known by name. Total and parts are read one after the other, so a part may be ahead
 * of its total for a while: the balance is carried from reading to reading, and over time nothing is counted twice or lost.
 */
final class UntoldGrowth
{
    /**
     * @param  array<string, int>  $total growth of the total, one of its counters `count`
     * @param  array<string, int>  $told growth of all parts together
     * @param  array<string, int>  $balance left by the reading before
     * @return array{growth: array<string, int>|null, balance: array<string, int>} growth null where no execution is untold
     */
    public static function of(array $total, array $told, array $balance): array
    {
        $open = [];
        foreach (array_keys($total + $told + $balance) as $name) {
            $open[$name] = ($total[$name] ?? 0) - ($told[$name] ?? 0) + ($balance[$name] ?? 0);
        }
        if (($open['count'] ?? 0) <= 0) {
            return ['growth' => null, 'balance' => self::nonZero($open)];
        }

        return [
            'growth' => array_map(static fn (int $value): int => max(0, $value), $open),
            'balance' => self::nonZero(array_map(static fn (int $value): int => min(0, $value), $open)),
        ];
    }

    /**
     * @param  array<string, int>  $balance
     * @return array<string, int>
     */
    private static function nonZero(array $balance): array
    {
        return array_filter($balance, static fn (int $value): bool => $value !== 0);
    }
}
