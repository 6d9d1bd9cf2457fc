<?php

declare(strict_types=1);

namespace Tests\Practice;

use Fulcrion\Core\Scheduling\Diagnoses;
use Fulcrion\Core\Scheduling\JobHead;
use Fulcrion\Core\Scheduling\JobModel;
use Fulcrion\Core\Scheduling\JobState;
use Fulcrion\Core\Scheduling\RecordedRun;
use Fulcrion\Core\Scheduling\RunFacts;
use Fulcrion\Core\Scheduling\StageSensitivity;
use Fulcrion\Core\Scheduling\TaskState;
use Fulcrion\Practice\Jobs\JobPlan;
use Fulcrion\Practice\Jobs\JobRunner;
use Fulcrion\Practice\Jobs\StagePlan;
use Fulcrion\Tools\Demo\NightlyJobs;
use PHPUnit\Framework\TestCase;

/**
 * The practice cluster runs jobs by rules of its own; what is computed from its records must hold against its next runs.
 */
final class JobRunnerTest extends TestCase
{
    private const START = 1_763_686_800_000_000;

    public function test_nothing_runs_before_what_it_waits_for_and_no_worker_does_two_things(): void
    {
        foreach (NightlyJobs::all() as $job) {
            $plan = NightlyJobs::plan($job['name'], 28);
            self::assertGreaterThanOrEqual(800, $plan->tasks());
            self::assertLessThanOrEqual(12_000, $plan->tasks());
            $run = self::record($plan, $job['workers'], 3);
            $facts = RunFacts::of($run);
            self::assertSame([0, 0, $plan->tasks()], [
                $facts->clocks->early,
                $facts->clocks->overlapping,
                $facts->counts->done,
            ], $job['name']);
            self::assertLessThanOrEqual($job['workers'], $facts->workers->mostUsed);
            self::assertSame([], $run->graph->cycle());
            // Scheduled again with the recorded number, it takes what it took.
            self::assertEqualsWithDelta(0, (new JobModel($run))->fitError(), 0.02, $job['name']);
        }
    }

    public function test_one_run_tells_of_others_it_did_not_see(): void
    {
        $plan = NightlyJobs::plan('meter-settlement', 28);
        $model = new JobModel(self::record($plan, 36, 5));
        foreach ([9, 18, 72, 144] as $i => $workers) {
            // The middle of three: one run may have bad luck.
            $actual = array_map(static fn (int $seed): int => self::record($plan, $workers, 50 + 10 * $i + $seed)->elapsedUs(), [0, 1, 2]);
            sort($actual);
            self::assertEqualsWithDelta(1.0, $model->timeUs($workers) / $actual[1], 0.12, "{$workers} workers");
        }
        // A fifth more to read: what is scaled comes close to what it then takes.
        $more = (new JobRunner($plan))->run(36, 77, self::START, 1.2);
        $scaled = $model->scheduler()->with($model->scaled(1.2))->run(36)->makespanUs;
        self::assertEqualsWithDelta(1.0, $scaled / ($more['endedUs'] - self::START), 0.08);
    }

    public function test_the_planted_troubles_are_diagnosed_and_the_healthy_neighbour_is_not(): void
    {
        $rules = [];
        foreach (
            ['buyer-scorecards' => 240, 'label-scan' => 32, 'price-match' => 96, 'climate-fold' => 960,
                'meter-settlement' => 36] as $name => $workers
        ) {
            $model = new JobModel(self::record(NightlyJobs::plan($name, 28), $workers, 9));
            foreach (Diagnoses::of($model, RunFacts::of($model->run), StageSensitivity::of($model, $workers)) as $one) {
                $rules[$name][$one->rule][] = $one;
            }
        }
        self::assertStringContainsString('group by buyer', $rules['buyer-scorecards']['skew'][0]->problem);
        self::assertCount(2, $rules['label-scan']['tiny-tasks']);
        self::assertStringContainsString('of them on host07', $rules['price-match']['stragglers'][0]->problem);
        self::assertArrayHasKey('idle', $rules['climate-fold']);
        self::assertArrayHasKey('read-again', $rules['climate-fold']);
        self::assertSame([], array_diff(array_keys($rules['meter-settlement'] ?? []), ['stragglers']));
        self::assertArrayNotHasKey('skew', $rules['climate-fold'] + $rules['price-match']);
    }

    public function test_a_task_that_fails_too_often_ends_the_job(): void
    {
        $plan = new JobPlan(
            'doomed',
            '',
            [new StagePlan('a', 'a', 40, [], 10.0, 50.0), new StagePlan('b', 'b', 5, ['a' => 'all'], 10.0, 50.0)],
            failures: 0.9,
        );
        $done = (new JobRunner($plan))->run(4, 1, self::START);
        self::assertTrue($done['failed']);
        $states = array_map(static fn (int $task): TaskState => $done['table']->stateOf($task), array_keys($done['table']->ids));
        self::assertContains(TaskState::Failed, $states);
        self::assertContains(TaskState::Waiting, $states);
        self::assertEquals($plan, JobPlan::fromArray($plan->toArray()));
    }

    public static function record(JobPlan $plan, int $workers, int $seed): RecordedRun
    {
        $done = (new JobRunner($plan))->run($workers, $seed, self::START);

        return RecordedRun::of(
            new JobHead(
                'x',
                $plan->name,
                '',
                '',
                self::START,
                self::START,
                $done['endedUs'],
                JobState::Done,
                '',
                $workers,
                null,
                '',
                -1,
                true,
            ),
            $done['stages'],
            $done['table'],
            $done['workers'],
        );
    }
}
