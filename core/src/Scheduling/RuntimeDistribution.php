<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

use Fulcrion\Core\Statistics\NormalDraw;
use Fulcrion\Core\Statistics\Spread;
use Random\Randomizer;

/**
 * How far runs scatter around the curve: the job scheduled again and again with drawn times, at some numbers of workers.
 */
final readonly class RuntimeDistribution
{
    /** What the model itself is off where luck hardly counts, as a standard deviation: ./fulcrion bench job-predict. */
    private const MODEL = 0.006;

    /**
     * @param  list<int>  $workers rising
     * @param  list<list<float>>  $factors by number of workers, sorted: time drawn to time of the curve
     */
    private function __construct(public array $workers, public array $factors)
    {
    }

    /**
     * @param  array{float, float}  $input factor of what is read, and its standard deviation
     */
    public static function of(
        JobModel $model,
        ScalingCurve $curve,
        Randomizer $random,
        int $draws = 24,
        int $places = 7,
        array $input = [1.0, 0.0],
    ): self {
        $workers = [];
        for ($i = 0; $i < $places; $i++) {
            $workers[] = max(1, (int) round($curve->ceiling ** (0.25 + (0.75 * $i) / max(1, $places - 1))));
        }
        $workers = array_values(array_unique([...$workers, min($model->run->workers(), $curve->ceiling)]));
        sort($workers);
        $factors = array_fill(0, count($workers), []);
        for ($draw = 0; $draw < $draws; $draw++) {
            $off = $input[1] <= 0 ? 0.0 : $input[1] * self::normal($random);
            $misfit = 1 + self::MODEL * self::normal($random);
            $scheduler = $model
                ->scheduler()
                ->with($model->drawn($random, $input[0] === 1.0 && $off === 0.0 ? 1.0 : max(0.05, $input[0] + $off)));
            foreach ($workers as $i => $count) {
                $factors[$i][] = ($misfit * $scheduler->run($count)->makespanUs) / max(1, $curve->timeUs($count));
            }
        }

        return new self(
            $workers,
            array_map(static function (array $list): array {
                sort($list);

                return $list;
            }, $factors),
        );
    }

    /**
     * Time with which a share of runs is through.
     */
    public function timeUs(ScalingCurve $curve, int $workers, float $share): float
    {
        return $curve->timeUs($workers) * $this->factor($workers, $share);
    }

    /** Factor on the time of the curve that a share of runs stays within. */
    public function factor(int $workers, float $share): float
    {
        [$low, $high, $part] = $this->place($workers);

        return (1 - $part) * Spread::further($this->factors[$low], $share) + $part * Spread::further($this->factors[$high], $share);
    }

    /**
     * Chance that a run takes no longer: how many draws do, the next one up counted by how near it is. Never quite 0 or
     * 1, for so few draws cannot tell.
     */
    public function chance(ScalingCurve $curve, int $workers, float $withinUs): float
    {
        [$low, $high, $part] = $this->place($workers);
        $limit = $withinUs / max(1, $curve->timeUs($workers));

        return (1 - $part) * self::within($this->factors[$low], $limit) + $part * self::within($this->factors[$high], $limit);
    }

    /**
     * @param  list<float>  $factors sorted
     */
    private static function within(array $factors, float $limit): float
    {
        $count = count($factors);
        $below = count(array_filter($factors, static fn (float $factor): bool => $factor <= $limit));

        return ($below + 0.5) / ($count + 1);
    }

    private static function normal(Randomizer $random): float
    {
        return NormalDraw::of(self::part($random), self::part($random));
    }

    /** Above 0, up to 1. */
    private static function part(Randomizer $random): float
    {
        return $random->getInt(1, 1 << 52) / (1 << 52);
    }

    /**
     * @return array{int, int, float}
     */
    private function place(int $workers): array
    {
        $last = count($this->workers) - 1;
        foreach ($this->workers as $i => $known) {
            if ($known >= $workers) {
                return $i === 0 || $known === $workers
                    ? [$i, $i, 0.0]
                    : [$i - 1, $i, log($workers / $this->workers[$i - 1]) / log($known / $this->workers[$i - 1])];
            }
        }

        return [$last, $last, 0.0];
    }
}
