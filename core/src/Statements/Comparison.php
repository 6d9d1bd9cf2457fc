<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statements;

/**
 * Splits the change of load between two windows over the statements. The parts add up to the whole.
 */
final class Comparison
{
    /**
     * @param  array<int|string, array{executions: int, durationUs: int, loadUs: int}>  $before statement => sums
     * @param  array<int|string, array{executions: int, durationUs: int, loadUs: int}>  $after
     * @return list<StatementChange> greatest change first
     */
    public static function of(array $before, int $beforeSeconds, array $after, int $afterSeconds): array
    {
        $none = ['executions' => 0, 'durationUs' => 0, 'loadUs' => 0];
        $changes = [];
        foreach ($before + $after as $statement => $_) {
            $old = $before[$statement] ?? $none;
            $new = $after[$statement] ?? $none;
            $perSecond = 1 / 1_000_000;
            $oldRate = $old['executions'] / $beforeSeconds;
            $newRate = $new['executions'] / $afterSeconds;
            $oldMean = $old['executions'] > 0 ? $old['durationUs'] / $old['executions'] : 0.0;
            $newMean = $new['executions'] > 0 ? $new['durationUs'] / $new['executions'] : 0.0;
            // With one side empty there is no second mean to speak of: all of the change is its coming or going.
            if ($old['executions'] === 0) {
                $oldMean = $newMean;
            } elseif ($new['executions'] === 0) {
                $newMean = $oldMean;
            }
            $oldLoad = ($old['loadUs'] * $perSecond) / $beforeSeconds;
            $newLoad = ($new['loadUs'] * $perSecond) / $afterSeconds;
            $byCount = ((($newRate - $oldRate) * ($newMean + $oldMean)) / 2) * $perSecond;
            $byLatency = ((($newMean - $oldMean) * ($newRate + $oldRate)) / 2) * $perSecond;
            $changes[] = new StatementChange(
                $statement,
                $old['executions'],
                $new['executions'],
                $oldMean,
                $newMean,
                $oldLoad,
                $newLoad,
                $byCount,
                $byLatency,
            );
        }
        usort(
            $changes,
            static fn (StatementChange $a, StatementChange $b): int => [abs($b->change()), $a->statement] <=> [
                abs($a->change()),
                $b->statement,
            ],
        );

        return $changes;
    }
}
