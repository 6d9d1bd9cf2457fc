<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans;

/**
 * A plan for somebody who sees some of its tables in part only. What a scan reads, and what the planner expects, counts
 * rows and values that are kept from them; only what came out behind the filters is theirs to see.
 */
final readonly class PlanVeil
{
    /**
     * The plan of a statement that was run as its reader may run it.
     *
     * @param  list<string>  $tables schema.table that are seen in part
     */
    public static function over(Plan $plan, array $tables): Plan
    {
        return self::plan($plan, $tables, false);
    }

    /**
     * The plan of a statement that was run by somebody else, who may have seen more: no count of rows that came out of
     * these tables is shown either.
     *
     * @param  list<string>  $tables
     */
    public static function ofOthers(Plan $plan, array $tables): Plan
    {
        return self::plan($plan, $tables, true);
    }

    /**
     * @return list<string> schema.table of the plan
     */
    public static function tables(Plan $plan): array
    {
        $names = [];
        foreach ($plan->steps() as $step) {
            if ($step->table !== null) {
                $names[] = $step->table->name;
            }
        }

        return array_values(array_unique($names));
    }

    /**
     * @param  list<string>  $tables
     */
    private static function plan(Plan $plan, array $tables, bool $deep): Plan
    {
        if ($tables === []) {
            return $plan;
        }
        [$root, $isVeiled] = self::step($plan->root, array_map(strtolower(...), $tables), $deep);
        if (! $isVeiled) {
            return $plan;
        }
        $remark = 'Figures of '.implode(' and ', $tables).' are not shown: you see it in part only.';

        return new Plan($root, $plan->engine, $plan->modelled, $plan->actual, null, $plan->statement, $plan->nodeCount, $plan->rowFactor, [
            ...$plan->remarks,
            $remark,
        ]);
    }

    /**
     * @param  list<string>  $tables
     * @return array{PlanStep, bool} whether anything of it or below is veiled
     */
    private static function step(PlanStep $s, array $tables, bool $deep): array
    {
        $veiled = $s->table !== null && in_array(strtolower($s->table->name), $tables, true);
        $above = false;
        $inputs = [];
        foreach ($s->inputs as $input) {
            [$inputs[], $one] = self::step($input, $tables, $deep);
            $above = $above || $one;
        }
        if (! $veiled && ! $above) {
            return [$s, false];
        }
        $all = $veiled || $deep;

        return [
            new PlanStep(
                $s->kind,
                $s->detail,
                $veiled ? new TableFacts($s->table->name) : $s->table,
                $s->conditions,
                new StepRows(null, $deep ? null : $s->rows->actual, $all ? null : $s->rows->in, $s->rows->loops),
                new StepCost(
                    null,
                    $all ? null : $s->cost->bytesSent,
                    $all ? null : $s->cost->memoryPeak,
                    $all ? null : $s->cost->bytesSpilled,
                ),
                new StepReads(
                    $all ? null : $s->reads->chunks,
                    $all ? null : $s->reads->chunksTotal,
                    $all ? null : $s->reads->partitions,
                    $all ? null : $s->reads->partitionsTotal,
                    $all ? null : $s->reads->bytes,
                    $all ? null : $s->reads->bytesTotal,
                ),
                [],
                $inputs,
                $veiled ? [] : $s->notes,
                $s->onlyFilters,
                $s->index,
            ),
            true,
        ];
    }
}
