<?php

declare(strict_types=1);

namespace Fulcrion\Core\Profiling;

use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanStep;

/**
 * What the steps of a statement took, as stacks: a step is called by the one that takes its rows.
 */
final class PlanStacks
{
    /** Milliseconds; nothing where the plan does not say what its steps took. */
    public static function of(Plan $plan): StackTree
    {
        $tree = new StackTree();
        self::add($tree, $plan->root, []);

        return $tree;
    }

    /**
     * @param  list<string>  $above
     */
    private static function add(StackTree $tree, PlanStep $step, array $above): void
    {
        $path = [...$above, str_replace(';', ':', $step->title())];
        if (($step->cost->ownUs ?? 0) > 0) {
            $tree->add($path, $step->cost->ownUs / 1_000);
        }
        foreach ($step->inputs as $input) {
            self::add($tree, $input, $path);
        }
    }
}
