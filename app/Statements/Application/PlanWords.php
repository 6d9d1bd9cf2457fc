<?php

declare(strict_types=1);

namespace App\Statements\Application;

use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanFinding;
use Fulcrion\Core\Plans\PlanStep;
use Fulcrion\Core\Text\Parts;
use Fulcrion\Core\Text\Quantity;

/**
 * A plan in words.
 */
final readonly class PlanWords
{
    /**
     * @param  list<PlanFinding>  $findings
     */
    public static function sentence(Plan $plan, array $findings): string
    {
        $hottest = $plan->hottest();
        $sum = array_sum(array_map(static fn (PlanStep $step): int => $step->cost->ownUs ?? 0, $plan->steps()));
        $clock = $plan->modelled ? 'modelled' : 'measured';
        if ($hottest === null || $sum === 0) {
            $why = $findings === [] ? '' : '; '.self::lower($findings[0]->problem);

            $count = count($plan->steps());

            return ($count === 1 ? 'A plan of one step' : "A plan of {$count} steps").
                ($plan->actual ? '' : ' that was not run, so it tells expectations only').
                $why;
        }
        $text =
            Quantity::percent(($hottest->cost->ownUs ?? 0) / $sum).
            ' of '.
            Quantity::duration($plan->sumUs()).
            " ({$clock}) goes into \"{$hottest->title()}\"";

        return $text.($findings === [] ? '' : '; '.self::lower($findings[0]->problem));
    }

    /** One line a step, inputs indented below what they feed. */
    public static function text(Plan $plan): string
    {
        $lines = [];
        $number = 0;
        self::lines($plan->root, 0, $number, $lines);

        return implode("\n", $lines);
    }

    /**
     * @return list<array{int, int, PlanStep}> number, depth, step; from the top
     */
    public static function numbered(PlanStep $step, int $depth = 0, int &$number = 0): array
    {
        $list = [[++$number, $depth, $step]];
        foreach ($step->inputs as $input) {
            array_push($list, ...self::numbered($input, $depth + 1, $number));
        }

        return $list;
    }

    public static function error(PlanStep $step): string
    {
        $factor = $step->errorFactor();
        if ($factor === null) {
            return Quantity::NONE;
        }
        if ($factor < 1.5) {
            return 'right';
        }

        return Quantity::digits($factor).
            '× '.
            (($step->rows->estimated ?? 0) > ($step->rows->actual ?? 0) / $step->rows->loops ? 'too many' : 'too few');
    }

    /**
     * @param  list<string>  $lines
     */
    private static function lines(PlanStep $step, int $depth, int &$number, array &$lines): void
    {
        $number++;
        $facts = Parts::said([
            $step->rows->actual === null ? '' : Quantity::count((int) $step->rows->actual).' rows',
            $step->rows->estimated === null ? '' : Quantity::count((int) $step->rows->estimated).' expected',
            $step->rows->loops > 1 ? Quantity::count($step->rows->loops).' loops' : '',
            $step->cost->ownUs === null ? '' : Quantity::duration($step->cost->ownUs),
            $step->reads->chunksTotal === null ? '' : "{$step->reads->chunks} of {$step->reads->chunksTotal} chunks",
        ]);
        $detail = $step->detail === '' || $step->detail === $step->table?->name ? '' : " {$step->detail}";
        $lines[] =
            str_repeat('    ', $depth)."{$number}. {$step->title()}{$detail}".($facts === [] ? '' : ' ['.implode(', ', $facts).']');
        foreach ($step->conditions as $condition) {
            if ($condition !== $step->detail) {
                $lines[] = str_repeat('    ', $depth)."   where {$condition}";
            }
        }
        foreach ($step->inputs as $input) {
            self::lines($input, $depth + 1, $number, $lines);
        }
    }

    private static function lower(string $text): string
    {
        return preg_match('~^[A-Z][a-z]~', $text) === 1 ? lcfirst($text) : $text;
    }
}
