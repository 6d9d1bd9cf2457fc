<?php

declare(strict_types=1);

namespace App\Metrics\Intake;

use App\Estate\Models\Cluster;
use App\Metrics\Store\PointStore;
use App\Metrics\Store\SeriesBook;
use App\Platform\Support\Clock;
use Fulcrion\Core\Metrics\Wire\Received;
use Fulcrion\Core\Metrics\Wire\Reception;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Support\Facades\DB;

/**
 * Takes what senders tell of hosts. A clock that is off is put right where the sender says what it shows; what was sent twice is one; what
 * cannot be taken is told, and nothing else is lost with it.
 */
final readonly class MetricIntake
{
    /** A clock may be off by so much without a word. */
    private const PATIENCE_MS = 30_000;

    /** What is from later than this cannot have been. */
    private const AHEAD_MS = 300_000;

    private const DAY_MS = 86_400_000;

    private const LONGEST_HOST = 120;

    private const LONGEST_COMPLAINT = 500;

    private const COMPLAINTS = 20;

    public function __construct(private PointStore $points, private SeriesBook $series)
    {
    }

    /**
     * @param  string  $host of values that do not say of which host they are
     * @param  int|null  $sentMs what the sender's clock showed when it was sent; null where it does not say
     */
    public function take(Cluster $cluster, Reception $reception, SourceKind $kind, string $host, ?int $sentMs = null): IntakeResult
    {
        $nowMs = intdiv(Clock::microseconds(), 1_000);
        $ahead = self::ahead($sentMs);
        $oldest = $nowMs - $cluster->retention_days * self::DAY_MS;
        $byHost = [];
        $late = $early = 0;
        foreach ($reception->values as $one) {
            $atMs = $one->atMs - $ahead;
            if ($atMs > $nowMs + self::AHEAD_MS) {
                $early++;
            } elseif ($atMs < $oldest) {
                $late++;
            } else {
                $name = $one->host === '' ? $host : $one->host;
                // A name of digits alone would be a number as a key.
                $byHost['='.mb_strcut($name === '' ? 'unknown' : $name, 0, self::LONGEST_HOST)][$atMs][] = $one;
            }
        }
        $complaints = $reception->complaints;
        if ($early > 0) {
            $complaints[] = Quantity::count($early).' values are of a time that has not been yet: the clock of who sends them is ahead';
        }
        if ($late > 0) {
            $complaints[] = Quantity::count($late)." values are older than the {$cluster->retention_days} days {$cluster->name} keeps";
        }
        $refused = $reception->refused + $early + $late;
        $taken = $repeated = 0;
        foreach ($byHost as $key => $moments) {
            $name = substr($key, 1);
            [$its, $again, $beyond] = $this->ofHost($cluster->id, $name, $moments);
            $taken += $its;
            $repeated += $again;
            $refused += $beyond;
            $own = [];
            if ($beyond > 0) {
                $own[] = Quantity::count($beyond)." values of {$name} belong to series beyond the ".Quantity::count(SeriesBook::MOST)
                    .' a host may have: a label has another value each time';
            }
            array_push($complaints, ...$own);
            $this->heard($cluster->id, $name, $kind, intdiv($nowMs, 1_000), $ahead, $beyond, [...$reception->complaints, ...$own]);
        }

        return new IntakeResult($taken, $repeated, $refused, array_slice($complaints, 0, self::COMPLAINTS));
    }

    /** Milliseconds the clock of a sender is ahead, where it is off at all. */
    public static function ahead(?int $sentMs): int
    {
        $nowMs = intdiv(Clock::microseconds(), 1_000);

        return $sentMs === null || abs($sentMs - $nowMs) <= self::PATIENCE_MS ? 0 : $sentMs - $nowMs;
    }

    /**
     * @param  array<int, list<Received>>  $moments by milliseconds
     * @return array{int, int, int} taken, repeated and beyond what a host may have
     */
    private function ofHost(int $clusterId, string $host, array $moments): array
    {
        ksort($moments);
        $taken = $repeated = $beyond = 0;
        foreach ($moments as $atMs => $list) {
            $metrics = array_map(static fn (Received $one) => $one->metric, $list);
            $values = $added = [];
            foreach ($this->series->numbers($clusterId, $host, $metrics) as $place => $number) {
                if ($number === null) {
                    $beyond++;
                } elseif ($list[$place]->isDelta) {
                    $added[$number] = ($added[$number] ?? 0.0) + $list[$place]->metric->value;
                } else {
                    $values[$number] = $list[$place]->metric->value;
                }
            }
            $all = $values + $this->totals($added, $atMs);
            $its = $this->points->takeValues($clusterId, $host, $atMs, $all);
            $taken += $its;
            $repeated += count($values) + count($added) - $its;
        }

        return [$taken, $repeated, $beyond];
    }

    /**
     * What it comes to with what was added; what was told already is not added again.
     *
     * @param  array<int, float>  $added by number of the series
     * @return array<int, float>
     */
    private function totals(array $added, int $atMs): array
    {
        if ($added === []) {
            return [];
        }

        return DB::transaction(static function () use ($added, $atMs): array {
            $totals = $rows = [];
            $known = DB::table('metric_totals')->whereIn('series_id', array_keys($added))->lockForUpdate()->get()->keyBy('series_id');
            foreach ($added as $number => $value) {
                $before = $known->get($number);
                if ($before !== null && (int) $before->at_ms >= $atMs) {
                    continue;
                }
                $totals[$number] = (float) ($before->value ?? 0.0) + $value;
                $rows[] = ['series_id' => $number, 'at_ms' => $atMs, 'value' => $totals[$number]];
            }
            DB::table('metric_totals')->upsert($rows, ['series_id'], ['at_ms', 'value']);

            return $totals;
        }, 3);
    }

    /**
     * @param  list<string>  $complaints
     */
    private function heard(int $clusterId, string $host, SourceKind $kind, int $now, int $ahead, int $refused, array $complaints): void
    {
        $said = mb_strcut(implode('; ', $complaints), 0, self::LONGEST_COMPLAINT);
        DB::table('metric_sources')->upsert([
            'cluster_id' => $clusterId, 'host' => $host, 'kind' => $kind->value, 'first_at' => $now, 'last_at' => $now,
            'ahead_ms' => $ahead, 'refused' => $refused, 'complaint' => $said === '' ? null : $said,
        ], ['cluster_id', 'host', 'kind'], ['last_at', 'ahead_ms', 'refused', 'complaint']);
    }
}
