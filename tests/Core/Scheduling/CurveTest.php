<?php

declare(strict_types=1);

namespace Tests\Core\Scheduling;

use Fulcrion\Core\Scheduling\CurvePoint;
use Fulcrion\Core\Scheduling\Elastic;
use Fulcrion\Core\Scheduling\JobModel;
use Fulcrion\Core\Scheduling\RecordedRun;
use Fulcrion\Core\Scheduling\RuntimeDistribution;
use Fulcrion\Core\Scheduling\ScalingCurve;
use Fulcrion\Core\Scheduling\Stage;
use Fulcrion\Core\Scheduling\WorkerRecommendations;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class CurveTest extends TestCase
{
    public function test_every_number_of_workers_is_reckoned_through_where_there_are_few(): void
    {
        // Six tasks of 10 s, then one of 20 s: T(N) = 10 * ceil(6 / N) + 20.
        $curve = ScalingCurve::of(new JobModel(self::six()));
        self::assertSame(6, $curve->ceiling);
        self::assertSame(
            [80, 50, 40, 40, 40, 30],
            array_map(static fn (CurvePoint $p): int => intdiv($p->timeUs, 1_000_000), $curve->points()),
        );
        self::assertSame(
            [1, 2, 3, 6],
            array_map(static fn (CurvePoint $p): int => $p->workers, $curve->front()),
            'four and five cost more and are no faster than three',
        );
        self::assertEqualsWithDelta(1 - 80 / 150, $curve->point(3)->idleShare + (1 - 80 / 150) - (1 - 80 / 120), 1e-9);
        $choices = new WorkerRecommendations($curve);
        self::assertSame(1, $choices->cheapest()->workers);
        self::assertSame(6, $choices->ceiling()->workers);
        self::assertSame(3, $choices->deadline(45_000_000)->workers);
        self::assertNull($choices->deadline(29_000_000));
        self::assertSame(2, $choices->budget(100 / 3600)->workers, 'two workers for 50 s are 100 worker seconds');
        self::assertNull($choices->budget(79 / 3600));
        // From 1 to 2: 20 worker seconds more, 30 s sooner: 40 worker seconds a minute.
        self::assertEqualsWithDelta(40 / 3600, $choices->nextMinute(1)['workerHours'], 1e-9);
        self::assertNull($choices->nextMinute(6));
    }

    public function test_the_knee_is_farthest_from_the_chord(): void
    {
        // Workers times time: 100, 120, 150, 464; made 0 to 1: 0, 0.055, 0.137, 1. Times: 1, 0.155, 0.014, 0.
        $front = [new CurvePoint(1, 100, 0), new CurvePoint(3, 40, 0), new CurvePoint(5, 30, 0), new CurvePoint(16, 29, 0)];
        // Below the chord by 0, 0.790, 0.849, 0.
        self::assertSame(2, WorkerRecommendations::bend($front));
    }

    public function test_what_is_read_off_between_is_close_to_what_comes_out(): void
    {
        $random = new Randomizer(new Mt19937(3));
        $model = new JobModel(self::wide($random, 900));
        $curve = ScalingCurve::of($model, 30);
        self::assertLessThanOrEqual(80, count($curve->points()));
        foreach ([3, 17, 59, 111, 202, 333] as $workers) {
            self::assertEqualsWithDelta(1.0, $curve->timeUs($workers) / $model->timeUs($workers), 0.02, "{$workers} workers");
        }
        $times = array_map(static fn (CurvePoint $p): int => $p->timeUs, $curve->front());
        $sorted = $times;
        rsort($sorted);
        self::assertSame($sorted, $times);
        // The deadline answer is the least: one worker less is late.
        $within = (int) (1.2 * $curve->timeUs(100));
        $chosen = (new WorkerRecommendations($curve))->deadline($within);
        self::assertLessThanOrEqual($within, $model->timeUs($chosen->workers));
        self::assertGreaterThan($within, $model->timeUs($chosen->workers - 1));
    }

    public function test_luck_widens_with_the_scatter_of_tasks_and_is_none_without(): void
    {
        $random = new Randomizer(new Mt19937(5));
        $steady = new JobModel(self::six());
        $curve = ScalingCurve::of($steady);
        $none = RuntimeDistribution::of($steady, $curve, $random, 10, 3);
        self::assertEqualsWithDelta(1.0, $none->factor(3, 0.9), 0.02, 'only what the model itself may be off');
        self::assertGreaterThan(0.9, $none->chance($curve, 3, 41_000_000));
        self::assertLessThan(0.1, $none->chance($curve, 3, 39_000_000));
        $model = new JobModel(self::wide($random, 300));
        $wide = ScalingCurve::of($model);
        $distribution = RuntimeDistribution::of($model, $wide, $random, 30, 4);
        self::assertGreaterThan($distribution->factor(40, 0.1), $distribution->factor(40, 0.9));
        self::assertGreaterThan(
            $distribution->chance($wide, 40, $wide->timeUs(40)),
            $distribution->chance($wide, 40, 1.2 * $wide->timeUs(40)),
        );
        // Ten per cent more to read moves the curve up.
        $grown = RuntimeDistribution::of($model, $wide, $random, 30, 4, [1.3, 0.0]);
        self::assertGreaterThan($distribution->factor(40, 0.5) * 1.1, $grown->factor(40, 0.5));
    }

    public function test_a_changing_number_of_workers_is_in_time_never_dearer_than_the_best_fixed_one_and_not_below_the_work(): void
    {
        $random = new Randomizer(new Mt19937(11));
        foreach ([60, 200, 420] as $tasks) {
            $model = new JobModel(self::wide($random, $tasks));
            $curve = ScalingCurve::of($model);
            $within = (int) (1.4 * $curve->timeUs($curve->ceiling));
            $fixed = (new WorkerRecommendations($curve))->deadline($within);
            $plan = (new Elastic($model, $curve, 4, 2_000_000, 20_000_000))->plan($within);
            self::assertLessThanOrEqual($within, $plan->timeUs);
            self::assertLessThanOrEqual($fixed->workers * $fixed->timeUs, $plan->paidUs);
            self::assertGreaterThanOrEqual(array_sum($model->loadedUs()), $plan->paidUs);
            self::assertSame($plan->timeUs, $model->scheduler()->elastic($plan->levels)->makespanUs);
        }
        $model = new JobModel(self::wide($random, 60));
        $tooShortUs = $model->run->graph->spanUs($model->loadedUs()) - 1;
        self::assertNull((new Elastic($model, ScalingCurve::of($model), 4, 0, 1_000_000))->plan($tooShortUs));
    }

    public function test_a_changing_number_is_near_the_best_of_all_on_tiny_jobs(): void
    {
        // Six tasks of 10 s, then one of 20: in 40 s the best is 3 workers for 20 s and one for 20.
        $model = new JobModel(self::six());
        $plan = (new Elastic($model, ScalingCurve::of($model), 1, 0, 10_000_000))->plan(40_000_000);
        self::assertSame([[0, 3], [20_000_000, 1]], $plan->levels);
        self::assertSame(80_000_000, $plan->paidUs);
    }

    private static function six(): RecordedRun
    {
        $tasks = [];
        for ($i = 0; $i < 6; $i++) {
            $tasks[] = ["a{$i}", 'a', 10 * intdiv($i, 3), 10 * intdiv($i, 3) + 10, $i % 3, 1000];
        }
        $tasks[] = ['b0', 'b', 20, 40, 0, 1000];

        return Jobs::run([new Stage('a', 'a'), new Stage('b', 'b', ['a'])], $tasks, 3);
    }

    /** A wide stage, a narrow one and another wide one. */
    private static function wide(Randomizer $random, int $count): RecordedRun
    {
        $tasks = [];
        foreach (['a' => $count, 'b' => 5, 'c' => intdiv($count, 2)] as $stage => $of) {
            for ($i = 0; $i < $of; $i++) {
                $mib = $random->getInt(5, 20);
                $tasks[] = ["{$stage}{$i}", $stage, 0, intdiv($mib * $random->getInt(70, 130), 100) + 1, $i % 40, $mib << 20];
            }
        }

        return Jobs::run([new Stage('a', 'a'), new Stage('b', 'b', ['a']), new Stage('c', 'c', ['b'])], $tasks, 40);
    }
}
