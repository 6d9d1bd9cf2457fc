<?php

declare(strict_types=1);

namespace Fulcrion\Core\Health;

use DateTimeImmutable;
use DateTimeZone;
use Fulcrion\Core\Statistics\Spread;

/**
 * A probe's own scale: what it takes when the system is idle, and what is usual at an hour of the week.
 */
final readonly class ProbeScale
{
    private const HOUR = 3_600;

    /** Of all runs the fastest so many are taken for idle. */
    private const IDLE = 0.05;

    /** Fewer runs tell nothing. */
    private const LEAST_RUNS = 12;

    private const OUTSIDE = 0.1;

    /** An hour of the week is usual where it was known in so many weeks before. */
    private const LEAST_WEEKS = 2;

    /**
     * @param  list<ProbeRun>  $runs oldest first
     * @param  array<int, list<ProbeRun>>  $byHour by the hour of the week they began in, from Monday
     */
    private function __construct(public array $runs, public ?float $idleUs, private array $byHour, private DateTimeZone $zone)
    {
    }

    /**
     * @param  list<ProbeRun>  $runs oldest first
     * @param  DateTimeZone  $zone hours are those of its clock
     */
    public static function of(array $runs, DateTimeZone $zone): self
    {
        $took = [];
        $byHour = [];
        foreach ($runs as $run) {
            if ($run->tookUs !== null) {
                $took[] = $run->tookUs;
                $byHour[self::hour($run->at, $zone)][] = $run;
            }
        }
        $idle = count($took) < self::LEAST_RUNS ? null : Spread::quantile($took, self::IDLE);

        return new self($runs, $idle !== null && $idle > 0 ? $idle : null, $byHour, $zone);
    }

    /** Times as long as when idle; null where that is not known, or it failed. */
    public function ratio(ProbeRun $run): ?float
    {
        return $this->idleUs === null || $run->tookUs === null ? null : $run->tookUs / $this->idleUs;
    }

    /** What was usual before a moment at that hour of the week; null where too little is known. */
    public function usual(int $at): ?UsualRange
    {
        $hour = self::hour($at, $this->zone);
        [$ratios, $weeks] = $this->before($this->byHour[$hour] ?? [], $at);
        $isWeekly = $weeks >= self::LEAST_WEEKS;
        if (! $isWeekly) {
            $all = [];
            for ($same = $hour % 24; $same < 7 * 24; $same += 24) {
                array_push($all, ...$this->byHour[$same] ?? []);
            }
            [$ratios] = $this->before($all, $at);
        }

        return count($ratios) < self::LEAST_RUNS ? null : new UsualRange(
            Spread::quantile($ratios, self::OUTSIDE),
            Spread::median($ratios),
            Spread::quantile($ratios, 1 - self::OUTSIDE),
            count($ratios),
            $isWeekly,
        );
    }

    /**
     * The middle of runs of a span; null where none ended well.
     *
     * @return array{float, int}|null times as long as when idle, of so many runs
     */
    public function middle(int $from, int $to): ?array
    {
        $ratios = [];
        foreach ($this->runs as $run) {
            $ratio = $run->at >= $from && $run->at < $to ? $this->ratio($run) : null;
            if ($ratio !== null) {
                $ratios[] = $ratio;
            }
        }

        return $ratios === [] ? null : [Spread::median($ratios), count($ratios)];
    }

    /**
     * @param  list<ProbeRun>  $runs
     * @return array{list<float>, int} ratios of those that were before the hour of a moment, and in how many weeks these were
     */
    private function before(array $runs, int $at): array
    {
        $ratios = $weeks = [];
        foreach ($runs as $run) {
            $ratio = $run->at < $at - $at % self::HOUR ? $this->ratio($run) : null;
            if ($ratio !== null) {
                $ratios[] = $ratio;
                $weeks[intdiv($run->at, 7 * 24 * self::HOUR)] = true;
            }
        }

        return [$ratios, count($weeks)];
    }

    private static function hour(int $at, DateTimeZone $zone): int
    {
        $here = (new DateTimeImmutable('@'.$at))->setTimezone($zone);

        return ((int) $here->format('N') - 1) * 24 + (int) $here->format('G');
    }
}
