<?php

declare(strict_types=1);

namespace App\Statements\Application;

use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanStep;

/**
 * Two plans step by step: which steps both have, which only one.
 */
final readonly class PlanDifference
{
    /**
     * @return list<array{PlanStep|null, PlanStep|null, int}> step of the first, of the second, depth; the longest common course of both
     */
    public static function of(Plan $first, Plan $second): array
    {
        $a = PlanWords::numbered($first->root);
        $b = PlanWords::numbered($second->root);
        $same = static fn (array $x, array $y): bool =>
            $x[2]->title() === $y[2]->title() && self::stripped($x[2]) === self::stripped($y[2]);
        $lengths = array_fill(0, count($a) + 1, array_fill(0, count($b) + 1, 0));
        for ($i = count($a) - 1; $i >= 0; $i--) {
            for ($j = count($b) - 1; $j >= 0; $j--) {
                $lengths[$i][$j] = $same($a[$i], $b[$j]) ? $lengths[$i + 1][$j + 1] + 1 : max($lengths[$i + 1][$j], $lengths[$i][$j + 1]);
            }
        }
        $rows = [];
        [$i, $j] = [0, 0];
        while ($i < count($a) || $j < count($b)) {
            if ($i < count($a) && $j < count($b) && $same($a[$i], $b[$j])) {
                $rows[] = [$a[$i++][2], $b[$j][2], $b[$j++][1]];
            } elseif ($j >= count($b) || ($i < count($a) && $lengths[$i + 1][$j] >= $lengths[$i][$j + 1])) {
                $rows[] = [$a[$i][2], null, $a[$i++][1]];
            } else {
                $rows[] = [null, $b[$j][2], $b[$j++][1]];
            }
        }

        return $rows;
    }

    /** What a step does, without the values it does it with. */
    private static function stripped(PlanStep $step): string
    {
        return (string) preg_replace("~'[^']*'|\b\d+\b~", '?', $step->kind->isJoin() || $step->kind->isExchange() ? $step->detail : '');
    }
}
