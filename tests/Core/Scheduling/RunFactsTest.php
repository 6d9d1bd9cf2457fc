<?php

declare(strict_types=1);

namespace Tests\Core\Scheduling;

use Fulcrion\Core\Scheduling\JobHead;
use Fulcrion\Core\Scheduling\JobState;
use Fulcrion\Core\Scheduling\RecordedRun;
use Fulcrion\Core\Scheduling\RunFacts;
use Fulcrion\Core\Scheduling\Stage;
use Fulcrion\Core\Scheduling\Task;
use Fulcrion\Core\Scheduling\TaskState;
use Fulcrion\Core\Scheduling\TaskTable;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * The figures of recorded runs against what one counts off the records, one question at a time.
 *
 * @phpstan-type Record array{id: string, stage: int, queued: int|null, from: int|null, to: int|null, worker: int, attempts: int,
 *     failed: bool, read: int|null, written: int, spilled: int, rows: int, after: list<int>}
 */
final class RunFactsTest extends TestCase
{
    private const STAGES = 4;

    public function test_every_figure_is_the_one_counted_off_the_records(): void
    {
        $random = new Randomizer(new Mt19937(17));
        for ($round = 0; $round < 60; $round++) {
            $records = self::records($random, $random->getInt(1, 40));
            $workers = $random->getInt(1, 12);
            $end = max(array_map(static fn (array $r): int => $r['to'] ?? $r['from'] ?? 0, $records)) + $random->getInt(0, 5);
            $run = self::recorded($records, $workers, $end);
            $facts = RunFacts::of($run);
            $started = array_filter($records, static fn (array $r): bool => $r['from'] !== null);
            $took = static fn (array $r): int => ($r['to'] ?? $end) - $r['from'];
            $ready = static fn (array $r): int => max([
                Jobs::START,
                ...array_map(static fn (int $before): int => $records[$before]['to'] ?? Jobs::START, $r['after']),
            ]);
            $sum = static fn (array $list, callable $of): int => (int) array_sum(array_map($of, $list));

            self::assertSame(
                [
                    count($records),
                    count(array_filter($records, static fn (array $r): bool => $r['to'] !== null && ! $r['failed'])),
                    count(array_filter($records, static fn (array $r): bool => $r['to'] !== null && $r['failed'])),
                    $sum($records, static fn (array $r): int => $r['attempts'] - 1),
                ],
                [$facts->counts->tasks, $facts->counts->done, $facts->counts->failed, $facts->counts->retries],
            );
            $work = $sum($started, $took);
            self::assertSame([$work, $end - Jobs::START], [$facts->times->workUs, $facts->times->elapsedUs]);
            self::assertSame($workers, $facts->workers->reserved);
            self::assertEqualsWithDelta(
                max(0.0, 1 - $work / ($workers * max(1, $end - Jobs::START))),
                $facts->workers->idleShare,
                1e-12,
            );
            self::assertSame($sum($records, static fn (array $r): int => $r['read'] ?? 0), $facts->bytesRead);
            self::assertSame(self::most($started, $took), $facts->workers->mostUsed);

            // Nothing that waits for something may be shorter than the longest way through it.
            $longest = [];
            foreach ($records as $i => $record) {
                $own = $record['to'] !== null ? $record['to'] - (int) $record['from'] : self::middle($records, $record['stage']);
                $longest[$i] = $own + (int) max([0, ...array_map(static fn (int $before): int => $longest[$before], $record['after'])]);
            }
            self::assertSame(max($longest), $facts->times->spanUs);
            self::assertEqualsWithDelta($work / max(1, max($longest)), $facts->meanParallelism(), 1e-9);
            self::assertEqualsWithDelta($workers * ($end - Jobs::START) / 3.6e9, $facts->workerHours(), 1e-12);

            $early = array_filter($started, static fn (array $r): bool => $r['from'] < $ready($r));
            self::assertSame(count($early), $facts->clocks->early);
            $earliest = max([0, ...array_map(static fn (array $r): int => $ready($r) - $r['from'], array_values($early))]);
            self::assertSame($earliest, $facts->clocks->earliestUs);
            self::assertSame(
                $early === [],
                $facts->clocks->earliestTask === '',
            );
            self::assertSame(self::overlapping($started, $end), $facts->clocks->overlapping);

            foreach ($facts->stages as $number => $stage) {
                $own = array_filter($records, static fn (array $r): bool => $r['stage'] === $number);
                $ran = array_filter($own, static fn (array $r): bool => $r['from'] !== null);
                $reads = array_values(array_filter(array_column($own, 'read'), static fn (?int $read): bool => $read !== null));
                $times = array_map($took, array_values($ran));
                self::assertSame(
                    [
                        'stage' => $number,
                        'tasks' => count($own),
                        'done' => count(array_filter($own, static fn (array $r): bool => $r['to'] !== null && ! $r['failed'])),
                        'failed' => count(array_filter($own, static fn (array $r): bool => $r['to'] !== null && $r['failed'])),
                        'workUs' => $sum($ran, $took),
                        'slowestUs' => max([0, ...$times]),
                        'firstUs' => $ran === [] ? 0 : min(array_column($ran, 'from')) - Jobs::START,
                        'lastUs' => max([0, ...array_map(static fn (array $r): int => (int) ($r['to'] ?? $end) - Jobs::START, $ran)]),
                        'bytesRead' => (int) array_sum($reads),
                        'bytesWritten' => $sum($own, static fn (array $r): int => $r['written']),
                        'bytesSpilled' => $sum($own, static fn (array $r): int => $r['spilled']),
                        'rowsRead' => $sum($own, static fn (array $r): int => $r['rows']),
                        'mostBytes' => max([0, ...$reads]),
                        'medianUs' => self::median($times),
                        'medianBytes' => self::median($reads),
                    ],
                    array_diff_key(
                        self::ordered($stage),
                        ['queueUs' => 1, 'lostUs' => 1, 'onPathUs' => 1],
                    ),
                    "round {$round}, stage {$number}",
                );
            }
            $waited = static fn (array $r): int => (int) max(0, $r['from'] - max($ready($r), $r['queued'] ?? Jobs::START, Jobs::START));
            self::assertSame($sum($started, $waited), $facts->times->queueUs);
            self::assertSame($facts->times->queueUs, (int) array_sum(array_column($facts->stages, 'queueUs')));
            self::assertSame($facts->times->lostUs, (int) array_sum(array_column($facts->stages, 'lostUs')));
            self::assertSame(
                array_sum(array_map(static fn (int $task): int => $run->durationsUs[$task], $facts->path)),
                (int) array_sum(array_column($facts->stages, 'onPathUs')),
            );
        }
    }

    /** What is kept of a run has every figure by its name, and none twice. */
    public function test_figures_are_kept_by_name(): void
    {
        $facts = RunFacts::of(self::recorded(self::records(new Randomizer(new Mt19937(2)), 12), 3, Jobs::START + 90));
        $kept = $facts->toArray();
        self::assertSame(
            [
                'tasks', 'done', 'failed', 'retries', 'workUs', 'spanUs', 'elapsedUs', 'queueUs', 'lostUs', 'startUpUs', 'overheadUs',
                'width', 'reserved', 'mostUsed', 'idleShare', 'early', 'earliestUs', 'earliestTask', 'overlapping', 'overlapTask',
                'path', 'bytesRead', 'stages',
            ],
            array_keys($kept),
        );
        self::assertSame([12, 3, $facts->path, $facts->stages], [$kept['tasks'], $kept['reserved'], $kept['path'], $kept['stages']]);
    }

    /**
     * @return list<Record> none waits for a later one
     */
    private static function records(Randomizer $random, int $count): array
    {
        $records = [];
        for ($i = 0; $i < $count; $i++) {
            $state = $random->getInt(0, 9);
            $from = $state === 0 ? null : Jobs::START + $random->getInt(0, 60);
            $to = $from === null || $state === 1 ? null : $from + $random->getInt(0, 20);
            $records[] = [
                'id' => "t{$i}",
                'stage' => $random->getInt(0, self::STAGES - 1),
                'queued' => $random->getInt(0, 2) === 0 && $from !== null ? $from - $random->getInt(0, 4) : null,
                'from' => $from,
                'to' => $to,
                'worker' => $random->getInt(-1, 4),
                'attempts' => $random->getInt(1, 3),
                'failed' => $random->getInt(0, 5) === 0,
                'read' => $random->getInt(0, 3) === 0 ? null : $random->getInt(0, 500),
                'written' => $random->getInt(0, 9),
                'spilled' => $random->getInt(0, 9),
                'rows' => $random->getInt(0, 9),
                'after' => array_values(array_filter(range(0, max(0, $i - 1)), static fn (int $before): bool => $before < $i
                    && $random->getInt(0, 7) === 0)),
            ];
        }

        return $records;
    }

    /**
     * @param  list<Record>  $records
     */
    private static function recorded(array $records, int $workers, int $end): RecordedRun
    {
        $table = new TaskTable();
        foreach ($records as $i => $r) {
            $state = match (true) {
                $r['from'] === null => TaskState::Waiting,
                $r['to'] === null => TaskState::Running,
                default => $r['failed'] ? TaskState::Failed : TaskState::Done,
            };
            $figures = ['bytes_written' => $r['written'], 'bytes_spilled' => $r['spilled'], 'rows_read' => $r['rows']]
                + ($r['read'] === null ? [] : ['bytes_read' => $r['read']]);
            $task = new Task(
                $r['id'],
                "s{$r['stage']}",
                null,
                null,
                $r['queued'] ?? -1,
                $r['from'] ?? -1,
                $r['to'] ?? -1,
                "w{$r['worker']}",
                $r['attempts'],
                $state,
                $figures,
            );
            // That there is one who waits tells the reader that who waits for whom is known.
            $after = $r['after'] === [] && $i > 0 ? null : $r['after'];
            $table->add($task, $r['stage'], $r['from'] === null ? -1 : $r['worker'], $after, null);
        }
        [$start, $done] = [Jobs::START, JobState::Done];
        $head = new JobHead('run-1', 'nightly', 'loaders', 'fernhill', $start, $start, $end, $done, '', $workers, null, '', -1, true);
        $stages = array_map(static fn (int $i): Stage => new Stage("s{$i}", "stage {$i}"), range(0, self::STAGES - 1));

        return RecordedRun::of($head, $stages, $table);
    }

    /**
     * @param  array<int, Record>  $started
     */
    private static function most(array $started, callable $took): int
    {
        $most = 0;
        foreach ($started as $one) {
            $most = max($most, count(array_filter($started, static fn (array $other): bool => $took($other) > 0
                && $other['from'] <= $one['from'] && $one['from'] < (int) $other['from'] + $took($other))));
        }

        return $most;
    }

    /**
     * @param  array<int, Record>  $started
     */
    private static function overlapping(array $started, int $end): int
    {
        $count = 0;
        foreach (array_unique(array_column($started, 'worker')) as $worker) {
            if ($worker < 0) {
                continue;
            }
            $own = array_values(array_filter($started, static fn (array $r): bool => $r['worker'] === $worker));
            usort($own, static fn (array $a, array $b): int => [$a['from'], $a['to'] ?? -1] <=> [$b['from'], $b['to'] ?? -1]);
            foreach ($own as $i => $one) {
                $before = array_map(static fn (array $r): int => $r['to'] ?? -1, array_slice($own, 0, $i));
                $count += $one['from'] < max([0, ...$before]) ? 1 : 0;
            }
        }

        return $count;
    }

    /**
     * @param  list<int>  $values
     */
    private static function median(array $values): float
    {
        sort($values);
        $count = count($values);

        return $count === 0 ? 0.0 : ($values[intdiv($count - 1, 2)] + $values[intdiv($count, 2)]) / 2;
    }

    /**
     * @param  list<Record>  $records
     */
    private static function middle(array $records, int $stage): int
    {
        $known = array_values(array_filter($records, static fn (array $r): bool => $r['stage'] === $stage && $r['to'] !== null));

        return (int) self::median(array_map(static fn (array $r): int => (int) $r['to'] - (int) $r['from'], $known));
    }

    /**
     * @param  array<string, int|float>  $stage
     * @return array<string, int|float> in the order the test counts in
     */
    private static function ordered(array $stage): array
    {
        $order = ['stage', 'tasks', 'done', 'failed', 'workUs', 'slowestUs', 'firstUs', 'lastUs', 'bytesRead', 'bytesWritten',
            'bytesSpilled', 'rowsRead', 'mostBytes', 'medianUs', 'medianBytes'];

        return array_replace(array_fill_keys($order, 0), $stage);
    }
}
