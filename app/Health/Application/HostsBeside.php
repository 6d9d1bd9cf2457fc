<?php

declare(strict_types=1);

namespace App\Health\Application;

use App\Estate\Models\Cluster;
use App\Metrics\Signals\HostMeasure;
use App\Metrics\Store\HostReadings;
use Fulcrion\Core\Health\Neighbours;
use Fulcrion\Core\Health\Outlier;
use Fulcrion\Core\Statistics\Spread;
use Fulcrion\Core\Time\Steps;
use Fulcrion\Core\Time\Window;

/**
 * Hosts of a cluster beside each other: how far each was from the middle of the others in the same intervals, and which one takes more for
 * the same work.
 */
final readonly class HostsBeside
{
    private const HOUR = 3_600;

    private const DAY = 86_400;

    /** Who is named is decided by so much, whatever window is looked at. */
    private const JUDGED = 28 * self::DAY;

    /** Readings further apart have a gap between them. */
    private const PATIENCE = 700;

    /** Intervals a strip shows at most. */
    private const MOST_STEPS = 336;

    /** More hosts than this are looked at by the hour at the finest. */
    private const MANY = 50;

    private const STEPS = [300, 900, ...self::STEPS_OF_MANY];

    private const STEPS_OF_MANY = [self::HOUR, 6 * self::HOUR, self::DAY];

    /** Of what hosts differ by, so much on each side is not usual. */
    private const UNUSUAL = 0.025;

    /**
     * @param  array<string, list<float|null>>  $differences natural logarithm of how many times as much as the middle of the others, by
     *     host, those that are furthest out first
     * @param  array<string, list<float|null>>  $values as they are, by host
     * @param  array{float, float}  $usual ends of what is usual for all of them
     * @param  array<string, list<array{int, int}>>  $gaps when nothing was read, by host
     */
    private function __construct(
        public HostMeasure $measure,
        public int $from,
        public int $to,
        public int $step,
        public array $differences,
        public array $values,
        public array $usual,
        public array $gaps,
    ) {
    }

    public static function of(Cluster $cluster, HostMeasure $measure, Window $window, int $now, HostReadings $store): self
    {
        $to = max($window->from + 1, min($window->to, $now));
        $isMany = $store->hosts($cluster->id) > self::MANY;
        $step = Steps::shortest($to - $window->from, $isMany ? self::STEPS_OF_MANY : self::STEPS, self::MOST_STEPS);
        $from = $window->from - $window->from % $step;
        $values = $gaps = [];
        foreach ($store->ofAll($cluster->id, $measure->names(), $from, $to, self::PATIENCE, $step) as $host => $readings) {
            $values[$host] = $measure->values($readings, $from, $to, $step);
            $gaps[$host] = $readings[$measure->names()[0]]->gaps($to);
        }
        $differences = Neighbours::of($values)->differences;
        // Those that are much alike stand in the order of their names, as everywhere.
        $out = array_map(static fn (array $list): float => round(abs(Spread::median(Spread::known($list))), 1), $differences);
        uksort($differences, static fn (string $a, string $b): int => [$out[$b], $a] <=> [$out[$a], $b]);
        // The ends of the host in the middle: one that is odd does not make it usual.
        $ends = [[], []];
        foreach (array_filter(array_map(Spread::known(...), $differences)) as $known) {
            $ends[0][] = Spread::quantile($known, self::UNUSUAL);
            $ends[1][] = Spread::quantile($known, 1 - self::UNUSUAL);
        }

        return new self($measure, $from, $to, $step, $differences, array_replace($differences, $values), [
            Spread::median($ends[0]), Spread::median($ends[1]),
        ], $gaps);
    }

    /**
     * Hosts that take more than their neighbours for the same work at the end of the last four weeks.
     *
     * @return list<array{Outlier, int|null}> with since when, in Unix seconds; null where it is so since before
     */
    public static function slow(Cluster $cluster, int $now, HostReadings $store): array
    {
        $to = $now - $now % self::HOUR;
        $from = $to - self::JUDGED;
        $costs = [];
        $measure = HostMeasure::DiskTime;
        foreach ($store->ofAll($cluster->id, $measure->names(), $from, $to, self::PATIENCE, self::HOUR) as $host => $readings) {
            $costs[$host] = $measure->values($readings, $from, $to, self::HOUR);
        }

        return array_map(
            static fn (Outlier $one): array => [$one, $one->since === null ? null : $from + $one->since * self::HOUR],
            Neighbours::of($costs)->slow(),
        );
    }

    /** How many times as much as its neighbours a host has, in the middle of the window; null where nothing is known. */
    public function factor(string $host): ?float
    {
        $known = Spread::known($this->differences[$host] ?? []);

        return $known === [] ? null : exp(Spread::median($known));
    }

    /** Whether anything is known of enough hosts. */
    public function isKnown(): bool
    {
        return Spread::known(array_merge([], ...array_values($this->differences))) !== [];
    }
}
