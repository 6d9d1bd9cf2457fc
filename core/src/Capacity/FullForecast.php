<?php

declare(strict_types=1);

namespace Fulcrion\Core\Capacity;

use Fulcrion\Core\Statistics\Spread;
use Fulcrion\Core\Statistics\StudentQuantile;

/**
 * The day a file system is full, if it goes on as in the last weeks: whole weeks are counted, as what comes once a week comes in steps.
 * The range is that of a sum of weeks to come, by what weeks differed (Student's distribution for the next values of a sample with unknown
 * mean and variance; Hahn and Meeker, Statistical Intervals, 1991): the day is before its first end in about one of ten cases or fewer, and
 * after its last in about one of ten. That this holds was checked on simulated growth of several shapes (tests).
 */
final readonly class FullForecast
{
    private const WEEK = 7;

    private const LEAST_WEEKS = 3;

    /** Weeks that are looked back at. */
    private const MOST_WEEKS = 13;

    /** Further away than this nobody looks. */
    public const MOST_DAYS = 1_095;

    private const SHARE = 0.9;

    /** What goes at once and is more than this part of all that came is a clean-up, not growth. */
    private const CLEAN_UP = 0.05;

    /**
     * @param  float  $weeklyBytes what comes in a week, on the mean
     * @param  int|null  $days until it is full; null where that is further away than anybody looks
     * @param  int|null  $earliest days
     * @param  int|null  $latest days; null where it may never be full
     * @param  list<array{float, float, float}>  $path bytes used on each day from tomorrow: least, middle, most; until it is surely full
     * @param  int  $cleanUps days on which much was given back at once; the forecast goes on as if none came
     */
    private function __construct(
        public float $weeklyBytes,
        public int $weeks,
        public ?int $days,
        public ?int $earliest,
        public ?int $latest,
        public array $path,
        public int $cleanUps,
    ) {
    }

    /**
     * @param  list<float|null>  $used bytes at the end of each day, ascending; the last one is today
     * @return self|null null where fewer than three weeks are known
     */
    public static function of(array $used, float $limit): ?self
    {
        $used = self::filled(array_slice($used, -self::WEEK * self::MOST_WEEKS - 1));
        $weeks = intdiv(count($used) - 1, self::WEEK);
        if ($weeks < self::LEAST_WEEKS) {
            return null;
        }
        $used = array_slice($used, -$weeks * self::WEEK - 1);
        [$grown, $cleanUps] = self::grown($used);
        $byWeek = array_map(array_sum(...), array_chunk($grown, self::WEEK));
        $mean = array_sum($byWeek) / $weeks;
        $deviation = sqrt(array_sum(array_map(static fn (float $one): float => ($one - $mean) ** 2, $byWeek)) / ($weeks - 1));
        $last = $used[count($used) - 1] ?? 0.0;
        $quantile = StudentQuantile::of(self::SHARE, $weeks - 1);
        $profile = self::profile($grown, $mean);
        $path = [];
        $met = [null, null, null];
        for ($day = 1; $day <= self::MOST_DAYS; $day++) {
            $ahead = $day / self::WEEK;
            $middle = $last + $mean * (intdiv($day, self::WEEK) + ($profile[$day % self::WEEK] ?? 0.0));
            $width = $quantile * $deviation * sqrt($ahead + $ahead ** 2 / $weeks);
            $row = [$middle - $width, $middle, $middle + $width];
            foreach ($row as $place => $bytes) {
                $met[$place] ??= $bytes >= $limit ? $day : null;
            }
            $path[] = $row;
            if ($met[0] !== null || ($mean <= 0.0 && $day >= 12 * self::WEEK)) {
                break;
            }
        }
        $isFull = $last >= $limit;

        return new self($mean, $weeks, $isFull ? 0 : $met[1], $isFull ? 0 : $met[2], $isFull ? 0 : $met[0], $path, $cleanUps);
    }

    /**
     * What came each day. A day on which much was given back at once counts as one on which nothing came.
     *
     * @param  list<float>  $used
     * @return array{list<float>, int}
     */
    private static function grown(array $used): array
    {
        $grown = [];
        for ($i = 1; $i < count($used); $i++) {
            $grown[] = $used[$i] - $used[$i - 1];
        }
        $came = array_sum(array_map(static fn (float $one): float => max(0.0, $one), $grown));
        $cleanUps = 0;
        foreach ($grown as $place => $bytes) {
            if ($bytes < 0.0 && -$bytes > self::CLEAN_UP * $came) {
                $grown[$place] = 0.0;
                $cleanUps++;
            }
        }

        return [$grown, $cleanUps];
    }

    /**
     * Which part of what comes in a week has come by each of its days, counted from today.
     *
     * @param  list<float>  $grown whole weeks, the last one ending today
     * @return array<int, float> by days, 0 to 6
     */
    private static function profile(array $grown, float $mean): array
    {
        $profile = [0 => 0.0];
        $sum = 0.0;
        for ($day = 0; $day < self::WEEK - 1; $day++) {
            $of = [];
            for ($i = $day; $i < count($grown); $i += self::WEEK) {
                $of[] = $grown[$i];
            }
            $sum += array_sum($of) / count($of);
            $profile[$day + 1] = $mean > 0.0 ? max(0.0, min(1.0, $sum / $mean)) : ($day + 1) / self::WEEK;
        }

        return $profile;
    }

    /**
     * A day that was not read has what the day before had; days before the first reading are left out.
     *
     * @param  list<float|null>  $used
     * @return list<float>
     */
    private static function filled(array $used): array
    {
        $known = Spread::known($used);
        $filled = [];
        $last = null;
        for ($day = array_key_first($known) ?? count($used); $day < count($used); $day++) {
            $last = $used[$day] ?? $last;
            $filled[] = (float) $last;
        }

        return $filled;
    }
}
