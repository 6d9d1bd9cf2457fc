<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans;

/**
 * How two plans of one statement reach into its tables.
 */
final readonly class PlanAccess
{
    /**
     * @return array<string, string> table => index it is read by; "" where it is read as a whole
     */
    public static function of(Plan $plan): array
    {
        $access = [];
        foreach ($plan->steps() as $step) {
            // Results kept aside have no name of their own.
            if ($step->table === null || str_starts_with($step->table->name, '<')) {
                continue;
            }
            $by = $step->kind === StepKind::Scan ? '' : $step->index;
            $access[$step->table->name] = ($access[$step->table->name] ?? $by) === '' ? '' : $by;
        }

        return $access;
    }

    /**
     * Tables the second reads as a whole and the first did not.
     *
     * @return array<string, string> table => index the first read it by
     */
    public static function lost(Plan $first, Plan $second): array
    {
        $before = self::of($first);
        $lost = [];
        foreach (self::of($second) as $table => $by) {
            if ($by === '' && ($before[$table] ?? '') !== '') {
                $lost[$table] = $before[$table];
            }
        }

        return $lost;
    }

    /** A plan in one line: "read orders, look up lines by by_order". */
    public static function told(Plan $plan): string
    {
        $steps = [];
        foreach ($plan->steps() as $step) {
            if ($step->table !== null && ! str_starts_with($step->table->name, '<')) {
                $steps[] = $step->kind === StepKind::Scan
                    ? "reads {$step->table->name} as a whole"
                    : "looks up {$step->table->name} by ".($step->index === '' ? 'a key' : $step->index);
            }
        }

        return $steps === [] ? 'reads no table' : implode(', then ', $steps);
    }
}
