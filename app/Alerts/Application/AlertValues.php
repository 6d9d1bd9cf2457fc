<?php

declare(strict_types=1);

namespace App\Alerts\Application;

use App\Estate\Models\Cluster;
use App\Metrics\Signals\SignalSources;
use App\Platform\Support\Clock;
use App\Platform\Support\SealedCache;
use Closure;
use DateTimeZone;
use Fulcrion\Core\Alerts\DaysLeft;
use Fulcrion\Core\Alerts\SilentSeconds;
use Fulcrion\Core\Alerts\TimesUsual;
use Fulcrion\Core\Alerts\Watched;
use Fulcrion\Core\Statistics\Spread;

/**
 * What a condition is held against: values of a signal, or what follows from them. What was read once is not read again for another
 * condition of the same pass.
 */
final class AlertValues
{
    private const HOUR = 3_600;

    private const DAY = 86_400;

    /** Of the hours of the weeks before the usual ones are told. */
    private const USUAL = 29 * self::DAY;

    /** Of the days before it is told when a limit is reached. */
    private const GROWTH = 22 * self::DAY;

    /** What has been silent for longer is no host any more. */
    private const GONE = 7 * self::DAY;

    private const MOST_KEPT = 200;

    /** What is longer is looked at again and again while somebody tries thresholds. */
    private const LONG = 2 * self::DAY;

    private const REMEMBERED_SECONDS = 900;

    /** @var array<string, array<array-key, list<float|null>>> */
    private array $read = [];

    /** @var array<string, array<array-key, list<float|null>>> */
    private array $values = [];

    /** @var array<string, array<array-key, list<float|null>>> of earlier hours and days, which change once an hour */
    private array $kept = [];

    public function __construct(private readonly SignalSources $sources)
    {
    }

    /** What was read for a moment says nothing of the next one. */
    public function forget(): void
    {
        $this->read = $this->values = [];
        if (count($this->kept) > self::MOST_KEPT) {
            $this->kept = [];
        }
    }

    /**
     * @param  string|null  $host only this one; null for all
     * @return array<array-key, list<float|null>> one a step, by host
     */
    public function of(
        Cluster $cluster,
        string $signal,
        ?string $host,
        Watched $watched,
        int $from,
        int $to,
        int $step,
        DateTimeZone $zone,
    ): array {
        $key = "{$cluster->id} {$signal} {$watched->value} {$from} {$to} {$step}";
        $read = fn (): array => match ($watched) {
            Watched::Value => $this->raw($cluster, $signal, $from, $to, $step),
            Watched::Usual => $this->usual($cluster, $signal, $from, $to, $step, $zone),
            Watched::DaysLeft => $this->daysLeft($cluster, $signal, $from, $to, $step),
            Watched::Silence => $this->silence($cluster, $signal, $from, $to, $step),
        };
        $all = $this->read[$key] ??= $to - $from > self::LONG ? $this->remembered($key.$zone->getName(), $read) : $read();

        return $host === null ? $all : array_intersect_key($all, [$host => true]);
    }

    /**
     * @return array<array-key, list<float|null>>
     */
    private function raw(Cluster $cluster, string $signal, int $from, int $to, int $step): array
    {
        return $this->values["{$cluster->id} {$signal} {$from} {$to} {$step}"]
            ??= $this->sources->values($cluster, $signal, $from, $to, $step);
    }

    /**
     * @param  Closure(): array<array-key, list<float|null>>  $read
     * @return array<array-key, list<float|null>>
     */
    private function remembered(string $key, Closure $read): array
    {
        return SealedCache::remember('alert-values', $key, [], $read, self::REMEMBERED_SECONDS, null);
    }

    /**
     * @return array<array-key, list<float|null>>
     */
    private function usual(Cluster $cluster, string $signal, int $from, int $to, int $step, DateTimeZone $zone): array
    {
        $hoursFrom = $from - $from % self::HOUR - self::USUAL;
        $hours = [];
        foreach ($this->weeks($from, $to, $hoursFrom) as [$first, $last]) {
            foreach ($this->earlier($cluster, $signal, $first, $last, self::HOUR) as $host => $list) {
                foreach ($list as $place => $value) {
                    $hours[$host][intdiv($first - $hoursFrom, self::HOUR) + $place] = $value;
                }
            }
        }
        $times = [];
        foreach ($this->raw($cluster, $signal, $from, $to, $step) as $host => $values) {
            $times[$host] = TimesUsual::of($values, $from, $step, $hours[$host] ?? [], $hoursFrom, $zone);
        }

        return $times;
    }

    /**
     * Of a short span the same hours of four weeks before, an hour around them as the clocks may have changed; of a long one all hours.
     *
     * @return list<array{int, int}>
     */
    private function weeks(int $from, int $to, int $hoursFrom): array
    {
        if ($to - $from > self::LONG) {
            return [[$hoursFrom, $to - $to % self::HOUR]];
        }
        $weeks = [];
        for ($week = 4; $week > 0; $week--) {
            $weeks[] = [
                $from - $from % self::HOUR - $week * 7 * self::DAY - self::HOUR,
                $to - 1 - ($to - 1) % self::HOUR - $week * 7 * self::DAY + 2 * self::HOUR,
            ];
        }

        return $weeks;
    }

    /**
     * @return array<array-key, list<float|null>> the same for all steps of a day
     */
    private function daysLeft(Cluster $cluster, string $signal, int $from, int $to, int $step): array
    {
        $first = $from - $from % self::DAY - self::GROWTH;
        // What a day comes to is known while it goes on: a level of its first hours is that of today.
        $last = $to - 1 - ($to - 1) % self::DAY + self::DAY;
        $left = [];
        foreach ($this->earlier($cluster, $signal, $first, $last, self::DAY) as $host => $days) {
            $byDay = [];
            for ($at = $from; $at < $to; $at += $step) {
                $day = intdiv($at - $first, self::DAY);
                // What is not known today says nothing, whatever was before.
                $byDay[$day] ??= [($days[$day] ?? null) === null ? null : DaysLeft::of(array_slice($days, 0, $day + 1), 1.0)];
                $left[$host][] = $byDay[$day][0];
            }
        }

        return $left;
    }

    /**
     * @return array<array-key, list<float|null>>
     */
    private function silence(Cluster $cluster, string $signal, int $from, int $to, int $step): array
    {
        $silent = [];
        foreach ($this->raw($cluster, $signal, $from, $to, $step) as $host => $list) {
            // Most have told something just now.
            $before = ($list[0] ?? null) !== null ? 0 : $this->silentBefore($cluster, $signal, $host, $from, $step);
            $silent[$host] = SilentSeconds::of($list, $step, $before);
        }

        return $silent;
    }

    /** When something was told last is looked for by the hour, and near the moment by the step. */
    private function silentBefore(Cluster $cluster, string $signal, int|string $host, int $from, int $step): ?int
    {
        $hoursFrom = $from - $from % self::HOUR - self::GONE;
        $near = $from - $from % self::HOUR - self::HOUR;
        $hours = $this->earlier($cluster, $signal, $hoursFrom, $near, self::HOUR)[$host] ?? [];
        $list = $this->earlier($cluster, $signal, $near, $from, $step)[$host] ?? [];
        $silent = SilentSeconds::of($list, $step, $this->before($cluster, $signal, $host, $hours, $hoursFrom, $step));
        $last = array_slice($silent, -1)[0] ?? null;

        return $last === null ? null : (int) $last;
    }

    /**
     * Seconds nothing had been told for when hours ended: in the last one in which something was, it is looked for by the step.
     *
     * @param  list<float|null>  $hours
     */
    private function before(Cluster $cluster, string $signal, int|string $host, array $hours, int $from, int $step): ?int
    {
        $last = array_key_last(Spread::known($hours));
        if ($last === null) {
            return null;
        }
        $at = $from + $last * self::HOUR;
        $within = $this->earlier($cluster, $signal, $at, $at + self::HOUR, $step)[$host] ?? [];
        $silent = SilentSeconds::of($within, $step, 0);

        return (count($hours) - 1 - $last) * self::HOUR + (int) (array_slice($silent, -1)[0] ?? 0.0);
    }

    /**
     * @return array<array-key, list<float|null>>
     */
    private function earlier(Cluster $cluster, string $signal, int $from, int $to, int $step): array
    {
        // What goes on changes with every reading: it is read again every hour.
        $hour = intdiv(Clock::seconds(), self::HOUR);

        $key = "{$hour} {$cluster->id} {$signal} {$from} {$to} {$step}";

        // The next minute is judged by another process.
        return $this->kept[$key] ??= $this->remembered($key, fn (): array => $this->sources->values($cluster, $signal, $from, $to, $step));
    }
}
