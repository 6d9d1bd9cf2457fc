<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Fulcrion\Core\Health\Neighbours;
use Fulcrion\Core\Statistics\NormalDraw;
use Fulcrion\Core\Statistics\Spread;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Clusters of twelve hosts over 28 days, a half of which have one sick host: is it named, how soon, and is anybody else?
 */
final class OutlierBench implements Measurement
{
    private const CLUSTERS = 1_000;

    private const HOSTS = 12;

    private const DAYS = 28;

    private const HOURS = 24;

    /** Days that have gone by when hosts are first looked at. */
    private const FIRST_LOOK = 7;

    /** From so many times on, hosts are to be found. */
    private const CLEAR = 1.5;

    private Randomizer $random;

    public function name(): string
    {
        return 'outlier';
    }

    public function run(Closure $say): iterable
    {
        $this->random = new Randomizer(new Mt19937(22));
        $clear = $clearFound = $slight = $slightFound = $accused = 0;
        $delays = [];
        $us = 0.0;
        for ($cluster = 0; $cluster < self::CLUSTERS; $cluster++) {
            if ($cluster % 50 === 0) {
                $say("{$cluster} of ".self::CLUSTERS.' clusters');
            }
            $factor = $cluster % 2 === 0 ? null : 1.3 + 0.7 * $this->uniform();
            $sick = $this->random->getInt(0, self::HOSTS - 1);
            $began = $this->random->getInt(self::HOURS * 4, self::HOURS * (self::DAYS - 2));
            $costs = $this->costs($factor, $sick, $began);
            $found = null;
            $isAccused = false;
            for ($day = self::FIRST_LOOK; $day <= self::DAYS; $day++) {
                $end = $day * self::HOURS;
                $start = hrtime(true);
                $slow = Neighbours::of(array_map(static fn (array $list): array => array_slice($list, 0, $end), $costs))->slow();
                $us += (hrtime(true) - $start) / 1e3;
                foreach ($slow as $one) {
                    if ($factor !== null && $one->host === "host-{$sick}" && $end > $began) {
                        $found ??= $end;
                    } else {
                        $isAccused = true;
                    }
                }
            }
            $accused += (int) $isAccused;
            if ($factor !== null) {
                $isClear = $factor >= self::CLEAR;
                $clear += (int) $isClear;
                $slight += (int) ! $isClear;
                $clearFound += (int) ($isClear && $found !== null);
                $slightFound += (int) (! $isClear && $found !== null);
                if ($found !== null) {
                    $delays[] = $found - max($began, self::FIRST_LOOK * self::HOURS);
                }
            }
        }
        yield BenchFigure::atLeast('found, 1.5 to 2 times slower', 100 * $clearFound / max(1, $clear), 99, '%');
        yield BenchFigure::of('missed, 1.5 to 2 times slower', (float) ($clear - $clearFound), "of {$clear}");
        yield BenchFigure::of('found, 1.3 to 1.5 times slower', 100 * $slightFound / max(1, $slight), '%');
        yield BenchFigure::atMost('clusters in which somebody else was ever accused', 100 * $accused / self::CLUSTERS, 1, '%');
        yield BenchFigure::of('found after, middle', Spread::median($delays), 'h');
        yield BenchFigure::of('found after, 95 of 100', Spread::quantile($delays, 0.95), 'h');
        yield BenchFigure::of('one look at a cluster', $us / self::CLUSTERS / (self::DAYS - self::FIRST_LOOK + 1), 'µs');
    }

    /**
     * What hosts take for the same: each is a little faster or slower than others for good and has days of its own, hours are noisy and
     * now and then wild, and some are missing. Work comes and goes with the day; where there is little of it the noise is larger.
     *
     * @return array<string, list<float|null>>
     */
    private function costs(?float $factor, int $sick, int $began): array
    {
        $costs = [];
        for ($host = 0; $host < self::HOSTS; $host++) {
            $own = 0.05 * $this->normal();
            $drift = 0.0;
            $list = [];
            for ($hour = 0; $hour < self::DAYS * self::HOURS; $hour++) {
                $drift = 0.98 * $drift + 0.006 * $this->normal();
                $work = 1 + 0.8 * sin(($hour % self::HOURS) / self::HOURS * 2 * M_PI);
                $noise = 0.08 / sqrt($work) * $this->normal();
                if ($this->random->getInt(0, 199) === 0) {
                    $noise += 0.3 + 1.2 * $this->uniform();
                }
                $sickness = $factor !== null && $host === $sick && $hour >= $began ? log($factor) : 0.0;
                $common = 0.3 * sin($hour / 9);
                $list[] = $this->random->getInt(0, 99) === 0 ? null : exp($own + $drift + $noise + $sickness + $common);
            }
            $costs["host-{$host}"] = $list;
        }

        return $costs;
    }

    private function uniform(): float
    {
        return $this->random->getInt(1, 1_000_000) / 1_000_000;
    }

    private function normal(): float
    {
        return NormalDraw::of($this->uniform(), $this->uniform());
    }
}
