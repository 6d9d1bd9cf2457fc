<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Fulcrion\Core\Forecast\DailySeries;
use Fulcrion\Core\Forecast\Forecast;
use Fulcrion\Core\Forecast\ForecastModel;
use Fulcrion\Core\Forecast\MonthEdges;
use Fulcrion\Core\Statistics\NormalDraw;
use Fulcrion\Core\Usage\Days;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Five hundred series of two years of seven sorts: models chosen and backtested, then held against the four weeks that came.
 */
final class UsageForecastBench implements Measurement
{
    private const SERIES = 500;

    private const KINDS = ['flat', 'trend', 'walk', 'calendar', 'shift', 'auto', 'spikes'];

    private const KNOWN = 730;

    private const AHEAD = 28;

    /** 1 January 2024, a Monday. */
    private const FIRST = 1_704_067_200;

    private Randomizer $random;

    public function name(): string
    {
        return 'usage-forecast';
    }

    public function run(Closure $say): iterable
    {
        $this->random = new Randomizer(new Mt19937(2026));
        $nanoseconds = 0;
        $errors = array_fill_keys(self::KINDS, [0.0, 0.0]);
        $held = ['0.8' => 0, '0.95' => 0];
        $ranges = 0;
        for ($i = 0; $i < self::SERIES; $i++) {
            $kind = self::KINDS[$i % count(self::KINDS)];
            if ($i % 50 === 0) {
                $say("series {$i} of ".self::SERIES);
            }
            $all = $this->series($kind);
            $known = new DailySeries(self::FIRST, array_slice($all, 0, self::KNOWN));
            $began = hrtime(true);
            $forecast = Forecast::of($known, self::AHEAD);
            $nanoseconds += hrtime(true) - $began;
            $came = array_slice($all, self::KNOWN);
            $naive = ForecastModel::SeasonalNaive->forecasts($known, [self::KNOWN], self::AHEAD, self::KNOWN)[self::KNOWN];
            $errors[$kind][0] += self::error($came, $forecast->days);
            $errors[$kind][1] += self::error($came, $naive);
            foreach ([1, 7, self::AHEAD] as $days) {
                $true = array_sum(array_slice($came, 0, $days));
                $ranges++;
                foreach (array_keys($held) as $part) {
                    [$low, $high] = $forecast->range($days, (float) $part) ?? [INF, -INF];
                    $held[$part] += $true >= $low && $true <= $high ? 1 : 0;
                }
            }
        }
        $say('');
        yield BenchFigure::atMost('500 series, chosen and backtested', $nanoseconds / 1e9, 10, 's');
        $ratios = array_map(static fn (array $one): float => $one[0] / $one[1], $errors);
        yield BenchFigure::atMost('error on series with trend against the plainest model', $ratios['trend'], 0.85, 'times');
        yield BenchFigure::atMost('error of the sort it is worst at against the plainest model', max($ratios), 1.02, 'times');
        yield BenchFigure::atLeast('80% ranges that held', 100 * $held['0.8'] / $ranges, 75, '%');
        yield BenchFigure::atMost('80% ranges that held', 100 * $held['0.8'] / $ranges, 85, '%');
        yield BenchFigure::of('95% ranges that held', 100 * $held['0.95'] / $ranges, '%');
    }

    /**
     * @return list<float>
     */
    private function series(string $kind): array
    {
        $week = [];
        for ($i = 0; $i < 7; $i++) {
            $week[] = ($i < 5 ? 0.8 : 0.1) + 0.4 * $this->one();
        }
        $level = 10 ** (1 + 3 * $this->one());
        $noise = 0.05 + 0.25 * $this->one();
        $slope = (0.3 + 1.2 * $this->one()) / 365 * ($this->one() < 0.8 ? 1 : -0.4);
        $edge = 1 + 1.5 * $this->one();
        [$shiftAt, $shift] = [200 + (int) (490 * $this->one()), $this->one() < 0.5 ? 1.6 : 0.6];
        [$drift, $carried] = [1.0, 0.0];
        $values = [];
        for ($i = 0; $i < self::KNOWN + self::AHEAD; $i++) {
            $drift *= exp(0.012 * $this->normal());
            $carried = 0.6 * $carried + $noise * $this->normal();
            $factor = match (true) {
                $kind === 'trend' => max(0.05, 1 + $slope * $i),
                $kind === 'walk' => $drift,
                $kind === 'calendar' && MonthEdges::edge(self::FIRST + $i * Days::DAY) !== 0 => $edge,
                $kind === 'shift' && $i >= $shiftAt => $shift,
                $kind === 'spikes' && $this->one() < 0.02 => 3 + 4 * $this->one(),
                default => 1.0,
            };
            $values[] = max(0.0, $level * $week[$i % 7] * $factor * (1 + ($kind === 'auto' ? $carried : $noise * $this->normal())));
        }

        return $values;
    }

    /**
     * @param  list<float>  $came
     * @param  list<float>  $said
     * @return float sum of what days were wrong by, by what they had
     */
    private static function error(array $came, array $said): float
    {
        return array_sum(array_map(static fn (float $a, float $b): float => abs($a - $b), $came, $said)) / array_sum($came);
    }

    private function one(): float
    {
        return $this->random->getInt(1, 1_000_000) / 1_000_001;
    }

    private function normal(): float
    {
        return NormalDraw::of($this->one(), $this->one());
    }
}
