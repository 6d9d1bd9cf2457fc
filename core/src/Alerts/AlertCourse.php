<?php

declare(strict_types=1);

namespace Fulcrion\Core\Alerts;

/**
 * The course of a condition over time, step by step: the same for what is, and for what was and is rehearsed. What is not known neither
 * begins nor ends anything: a ring goes on over a gap, and what had not rung yet has to last from then on.
 */
final readonly class AlertCourse
{
    /**
     * @param  array<array-key, AlertState>  $states before the span, by host
     * @param  array<array-key, list<float|null>>  $values one a step, by host
     * @param  int  $from first second of the first step
     * @param  int  $step seconds
     */
    public static function advance(AlertCondition $condition, array $states, array $values, int $from, int $step): AlertAdvance
    {
        if ($condition->share !== null) {
            return self::together($condition, $states, $values, $from, $step);
        }
        $begun = $ended = [];
        $above = $condition->side === ThresholdSide::Above;
        $threshold = $condition->threshold;
        foreach ($values as $host => $list) {
            $state = $states[$host] ?? null;
            foreach ($list as $place => $value) {
                // Most are quiet, and stay so.
                if ($state === null && ($value === null || ($above ? $value < $threshold : $value > $threshold))) {
                    continue;
                }
                $before = $state;
                $state = self::next($condition, $before, $value, $from + $place * $step, $step);
                if ($state?->rangAt !== null && $before?->rangAt === null) {
                    $begun[] = new AlertRing((string) $host, $state->since, $state->rangAt, null, $state->worst);
                }
                if ($state === null && $before?->rangAt !== null) {
                    $to = $before->calmSince ?? $from + $place * $step;
                    $ended[] = new AlertRing((string) $host, $before->since, $before->rangAt, $to, $before->worst);
                }
            }
            if ($state === null) {
                unset($states[$host]);
            } else {
                $states[$host] = $state;
            }
        }

        return new AlertAdvance($states, $begun, $ended);
    }

    /**
     * All rings of a span, from quiet on.
     *
     * @param  array<array-key, list<float|null>>  $values one a step, by host
     * @return list<AlertRing> in the order in which they began
     */
    public static function rings(AlertCondition $condition, array $values, int $from, int $step): array
    {
        $all = self::advance($condition, [], $values, $from, $step);
        $rings = $all->ended;
        foreach ($all->states as $host => $state) {
            // What the group is remembered by is no ring of a host.
            if ($state->rangAt !== null && ($condition->share === null || $host === '')) {
                $rings[] = new AlertRing((string) $host, $state->since, $state->rangAt, null, $state->worst);
            }
        }
        usort($rings, static fn (AlertRing $a, AlertRing $b): int => [$a->rangAt, $a->host] <=> [$b->rangAt, $b->host]);

        return $rings;
    }

    private static function next(AlertCondition $condition, ?AlertState $state, ?float $value, int $at, int $step): ?AlertState
    {
        if ($value === null) {
            return $state?->rangAt === null ? null : $state;
        }
        if ($state === null || $state->rangAt === null) {
            if (! $condition->isReached($value)) {
                return null;
            }
            $since = $state->since ?? $at;
            $isLong = $at + $step - $since >= $condition->forSeconds;

            return new AlertState($since, $isLong ? $at + $step : null, null,
                $state === null ? $value : $condition->side->worse($state->worst, $value));
        }
        if (! $condition->isCalm($value)) {
            return new AlertState($state->since, $state->rangAt, null, $condition->side->worse($state->worst, $value));
        }
        $calmSince = $state->calmSince ?? $at;

        return $at + $step - $calmSince >= $condition->calmSeconds ? null
            : new AlertState($state->since, $state->rangAt, $calmSince, $state->worst);
    }

    /**
     * A share of the hosts that are known: each is held against the threshold on its own, at once, and the share of those that reached it
     * has to last.
     *
     * @param  array<array-key, AlertState>  $states of hosts, and of the group under the empty name
     * @param  array<array-key, list<float|null>>  $values
     */
    private static function together(AlertCondition $condition, array $states, array $values, int $from, int $step): AlertAdvance
    {
        $own = new AlertCondition($condition->side, $condition->threshold, $condition->calm, 0, 0);
        $group = array_intersect_key($states, ['' => true]);
        unset($states['']);
        $shares = [];
        foreach (array_keys(array_values($values)[0] ?? []) as $place) {
            $at = $from + $place * $step;
            $known = $reached = 0;
            foreach ($values as $host => $list) {
                $state = self::next($own, $states[$host] ?? null, $list[$place] ?? null, $at, $step);
                unset($states[$host]);
                if ($state !== null) {
                    $states[$host] = $state;
                }
                if (($list[$place] ?? null) !== null) {
                    $known++;
                    $reached += $state === null ? 0 : 1;
                }
            }
            $shares[] = $known === 0 ? null : $reached / $known;
        }
        $all = self::advance($condition->ofShare(), $group, ['' => $shares], $from, $step);

        return new AlertAdvance($all->states + $states, $all->begun, $all->ended);
    }
}
