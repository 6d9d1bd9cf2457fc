<?php

declare(strict_types=1);

namespace App\Telemetry\Collect;

use App\Telemetry\Store\Origin;
use Fulcrion\Core\Statements\LoadAggregate;
use Fulcrion\Core\Telemetry\Execution;
use Fulcrion\Core\Telemetry\Fact;

/**
 * A server counts by statement and database only. Of the runs it still remembers singly it knows who sent them: they are taken by
 * user, application and host, and what is left of the count keeps its database alone. Together they are what the server counted.
 */
final class Attribution
{
    /** What a digest tells of all its runs. */
    private const FACTS =
        Fact::LOCK |
        Fact::ROWS_RETURNED |
        Fact::ROWS_EXAMINED |
        Fact::ROWS_AFFECTED |
        Fact::TMP_MEMORY |
        Fact::TMP_DISK |
        Fact::SORT_PASSES |
        Fact::FULL_SCAN |
        Fact::INDEX |
        Fact::WARNINGS;

    /**
     * @param  list<Execution>  $single runs of it that are remembered
     * @return list<Part>
     */
    public static function of(Grown $grown, array $single): array
    {
        // What ended after the counters were read is in the next reading.
        usort(
            $single,
            static fn (Execution $a, Execution $b): int => $a->startedAtUs + $a->durationUs <=> $b->startedAtUs + $b->durationUs,
        );
        $parts = [];
        foreach (array_slice($single, 0, $grown->delta['count']) as $execution) {
            $origin = new Origin(
                $grown->reading->database,
                $execution->origin->user,
                $execution->origin->application,
                $execution->origin->clientHost,
            );
            $parts[$origin->digest] ??= new Part($origin, new LoadAggregate());
            $tally = $parts[$origin->digest]->tally;
            $tally->add($execution);
            $tally->passTime($execution->durationUs, $execution->times->lockUs ?? 0, 0, 0);
            $tally->facts = self::FACTS | Fact::DURATIONS;
        }
        $rest = self::rest($grown, array_values($parts));
        if ($rest !== null) {
            $origin = new Origin($grown->reading->database);
            if (isset($parts[$origin->digest])) {
                $parts[$origin->digest]->tally->merge($rest);
            } else {
                $parts[$origin->digest] = new Part($origin, $rest);
            }
        }

        return array_values($parts);
    }

    /**
     * @param  list<Part>  $parts
     */
    private static function rest(Grown $grown, array $parts): ?LoadAggregate
    {
        $delta = $grown->delta;
        $known = array_fill_keys(LoadAggregate::SUMS, 0);
        foreach ($parts as $part) {
            foreach ($part->tally->sums as $name => $sum) {
                $known[$name] += $sum;
            }
        }
        $count = $delta['count'] - $known['executions'];
        if ($count <= 0) {
            return null;
        }
        // The server counts what was cancelled or timed out as errors.
        $known['errors'] += $known['cancelled'] + $known['timed_out'];
        $tally = new LoadAggregate();
        foreach (LoadAggregate::SUMS as $sum) {
            $tally->sums[$sum] = max(0, ($delta[$sum] ?? 0) - $known[$sum]);
        }
        $tally->sums['executions'] = $count;
        $tally->sums['load_us'] = $tally->sums['duration_us'];
        // A scan in several tables of one statement counts several times at the server; a run is one run here.
        $tally->sums['full_scans'] = min($count, $tally->sums['full_scans']);
        $tally->sums['no_index'] = min($count, $tally->sums['no_index']);
        $tally->sums['multi_pass'] = min($count, $tally->sums['sort_passes']);
        // The server's extremes are of all time: within one reading only the mean is certain, unless the row is new.
        $mean = intdiv($tally->sums['duration_us'], $count);
        $tally->minUs = $grown->isNew ? $grown->reading->minUs : $mean;
        $tally->maxUs = $grown->isNew ? $grown->reading->maxUs : $mean;
        $tally->facts = self::FACTS;

        return $tally;
    }
}
