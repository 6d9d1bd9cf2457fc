<?php

declare(strict_types=1);

namespace App\Jobs\Application;

use App\Jobs\Application\Sources\DocumentSource;
use App\Jobs\Application\Sources\JobSource;
use App\Jobs\Application\Sources\PieceFile;
use App\Jobs\Application\Sources\SpanSource;
use App\Jobs\Application\Sources\TableSource;
use App\Jobs\Models\JobRun;
use Fulcrion\Core\Scheduling\Formats\HeadReader;
use Fulcrion\Core\Scheduling\JobProblem;
use Fulcrion\Core\Scheduling\JobState;
use Fulcrion\Core\Scheduling\Stage;
use Fulcrion\Core\Scheduling\Task;
use Fulcrion\Core\Scheduling\TaskGraph;
use Fulcrion\Core\Scheduling\TaskState;
use Fulcrion\Core\Scheduling\TaskTable;
use Fulcrion\Core\Text\JsonError;
use Illuminate\Support\Facades\DB;
use RuntimeException;

/**
 * Reads the record of a job into the store in constant memory: tasks go out in chunks as they come, who is called what is
 * kept in the database until it is known who waits for whom. A record that is refused leaves nothing behind but why.
 */
final class JobIntake
{
    private const MOST_PROBLEMS = 50;

    private const MOST_STAGES = 5_000;

    private const BEAT_NS = 500_000_000;

    /** @var array<string, int> */
    private array $stages = [];

    /** @var array<int, Stage> */
    private array $declared = [];

    /** @var array<string, int> */
    private array $workers = [];

    /** @var list<JobProblem> */
    private array $problems = [];

    private int $refusals = 0;

    private int $last = 0;

    private int $open = 0;

    private int $failed = 0;

    /** Whether somewhere a task did not begin after what it waits for: only then can there be a circle. */
    private bool $suspicious = false;

    public function __construct(private readonly JobRunStore $store)
    {
    }

    /**
     * @param  array<string, mixed>  $given fields of the head the file does not have
     */
    public function read(JobRun $run, string $path, array $given = []): void
    {
        [$this->stages, $this->declared, $this->workers, $this->problems, $this->refusals, $this->suspicious] = [[], [], [], [], 0, false];
        [$count, $fields, $this->open, $this->failed] = [0, [], 0, 0];
        $this->store->forget($run->id);
        try {
            $file = new PieceFile($path);
            $count = $this->tasks($run, $file, $fields);
            if (! isset($fields['state']) && ! isset($fields['ended_at'])) {
                $given['state'] = $this->state()->value;
            }
            $head = (new HeadReader())->head($fields + $given, '');
            if ($head instanceof JobProblem) {
                $this->problem($head);
            } elseif ($count === 0 && ! $this->refused()) {
                $this->problem(new JobProblem('', 'job', 'tasks', 'are none', 'A job needs at least one task.', true));
            } elseif (! $this->refused()) {
                $this->link($run, $count);
                $stages = $this->stageList();
                if (! $this->refused() && ($this->suspicious || self::circular($stages))) {
                    $this->circle($run, $stages);
                }
            }
        } catch (JsonError $error) {
            $this->problem(new JobProblem("line {$error->textLine}", '', '', $error->getMessage(), 'Send the whole file again.', true));
        } catch (RuntimeException $error) {
            $this->problem(new JobProblem('', '', '', $error->getMessage(), '', true));
        }
        $stopped = $run->stopAsked();
        if ($stopped || $this->refusals > 0 || ! isset($head) || $head instanceof JobProblem || ! isset($stages)) {
            $this->store->forget($run->id);
            $run->update([
                'state' => $stopped ? 'stopped' : 'refused',
                'problems' => $this->sentences(),
                'progress' => '',
                'path' => null,
                'tasks' => 0,
            ]);

            return;
        }
        DB::table('job_task_names')->where('run_id', $run->id)->delete();
        DB::transaction(function () use ($run, $head, $stages, $count): void {
            // The same run sent again, as one that was running, takes the place of what was known of it.
            /** @var JobRun|null $known */
            $known = JobRun::query()->where('cluster_id', $run->cluster_id)->where('external_id', $head->id)->lockForUpdate()->first();
            if ($known !== null && $known->id !== $run->id) {
                $this->store->forget($known->id);
                $known->delete();
                $this->problem(new JobProblem('', "run {$head->id}", '', 'was known already', 'What was known of it is replaced.', false));
            }
            $run->update([
                'external_id' => $head->id,
                'name' => $head->name,
                'owner' => $head->owner,
                'state' => $head->state->value,
                'submitted_us' => $head->submittedUs,
                'started_us' => $head->startedUs,
                'ended_us' => $head->endedUs,
                'deadline_us' => $head->deadlineUs,
                'workers' => $head->workers,
                'price' => $head->workerPrice,
                'currency' => $head->currency,
                'script' => $head->script,
                'stages' => array_map(static fn (Stage $stage): array => $stage->toArray(), $stages),
                'worker_names' => array_map(strval(...), array_keys($this->workers)),
                'tasks' => $count,
                'modelled' => $head->modelled,
                'problems' => $this->sentences(),
                'progress' => '',
                'done_share' => 1,
                'path' => null,
            ]);
        });
    }

    public static function source(PieceFile $file): JobSource
    {
        $head = ltrim($file->piece());
        $file->again();

        return match (true) {
            ! str_starts_with($head, '{') => new TableSource(),
            preg_match('~^\{\s*"(resourceSpans|resource_spans)"~', $head) === 1 => new SpanSource(),
            default => new DocumentSource(),
        };
    }

    /**
     * @param  array<string, mixed>  $fields of the head
     */
    private function tasks(JobRun $run, PieceFile $file, array &$fields): int
    {
        [$table, $names, $stageNames, $count, $number] = [new TaskTable(), [], [], 0, 0];
        $flush = function () use ($run, &$table, &$names, &$stageNames, &$count, &$number): void {
            $this->names($run, $table, $count);
            $this->store->put(
                $run->id,
                $number++,
                $table->count(),
                ['names' => (object) $names, 'stageNames' => (object) $stageNames] + [
                    'after' => (object) [],
                    'afterStages' => (object) [],
                ] +
                    $table->columns(),
            );
            $count += $table->count();
            [$table, $names, $stageNames] = [new TaskTable(), [], []];
        };
        foreach (self::source($file)->items($file) as $item) {
            if ($item instanceof Task) {
                $stage = $this->stages[$item->stage === '' ? '(no stage)' : $item->stage] ??= count($this->stages);
                if (count($this->stages) > self::MOST_STAGES) {
                    $this->problem(
                        new JobProblem(
                            '',
                            'job',
                            'stages',
                            'are more than '.self::MOST_STAGES,
                            'Name stages by what their tasks do, not each task.',
                            true,
                        ),
                    );

                    return 0;
                }
                $place = $table->count();
                $this->open += in_array($item->state, [TaskState::Waiting, TaskState::Running], true) ? 1 : 0;
                $this->failed += $item->state === TaskState::Failed ? 1 : 0;
                if ($item->after !== null) {
                    $names[$place] = $item->after;
                }
                if ($item->afterStages !== null) {
                    $stageNames[$place] = $item->afterStages;
                }
                $table->add(
                    $item,
                    $stage,
                    $item->worker === '' ? TaskTable::UNKNOWN : ($this->workers[$item->worker] ??= count($this->workers)),
                    null,
                    null,
                );
                if ($table->count() === JobRunStore::CHUNK) {
                    $flush();
                    if (! $this->beat($run, 'reading tasks: '.$count, (0.6 * $file->bytesRead) / max(1, $file->bytesTotal))) {
                        return 0;
                    }
                }
            } elseif ($item instanceof Stage) {
                $stage = $this->stages[$item->id] ??= count($this->stages);
                if (isset($this->declared[$stage])) {
                    $this->problem(
                        new JobProblem('', "stage {$item->id}", 'id', 'is there twice', 'Give every stage an id of its own.', true),
                    );
                }
                $this->declared[$stage] = $item;
            } elseif ($item instanceof JobProblem) {
                $this->problem($item);
                if (count($this->problems) >= self::MOST_PROBLEMS) {
                    break;
                }
            } else {
                $fields[$item[0]] = $item[1];
            }
        }
        if ($table->count() > 0) {
            $flush();
        }

        return $count;
    }

    /** Keeps which task has which number; an id that is there twice is told. */
    private function names(JobRun $run, TaskTable $table, int $from): void
    {
        foreach (array_chunk($table->ids, 1000, true) as $ids) {
            $rows = [];
            foreach ($ids as $place => $id) {
                $rows[] = ['run_id' => $run->id, 'name' => $id, 'number' => $from + $place, 'ended_us' => $table->ended[$place]];
            }
            if (DB::table('job_task_names')->insertOrIgnore($rows) < count($rows)) {
                $kept = DB::table('job_task_names')
                    ->where('run_id', $run->id)
                    ->whereIn('name', array_map(strval(...), $ids))
                    ->pluck('number', 'name');
                foreach ($ids as $place => $id) {
                    if ((int) $kept[$id] !== $from + $place && count($this->problems) < self::MOST_PROBLEMS) {
                        $this->problem(
                            new JobProblem(
                                'record '.($from + $place + 1),
                                "task {$id}",
                                'id',
                                'is that of record '.($kept[$id] + 1).' too',
                                'Give every task an id of its own; tell a retried one once, with its attempts.',
                                true,
                            ),
                        );
                    }
                }
            }
        }
    }

    /** Puts numbers in place of the names of what tasks wait for. */
    private function link(JobRun $run, int $count): void
    {
        for ($number = 0, $from = 0; ($chunk = $this->store->chunk($run->id, $number)) !== null; $number++, $from += count($chunk['ids'])) {
            $names = (array) $chunk['names'];
            $stageNames = (array) $chunk['stageNames'];
            unset($chunk['names'], $chunk['stageNames']);
            $wanted = array_values(array_unique(array_merge([], ...array_values($names))));
            $found = [];
            foreach (array_chunk($wanted, 1000) as $some) {
                foreach (
                    DB::table('job_task_names')
                        ->where('run_id', $run->id)
                        ->whereIn('name', $some)
                        ->get(['name', 'number', 'ended_us']) as $row
                ) {
                    $found[$row->name] = [(int) $row->number, (int) $row->ended_us];
                }
            }
            $after = $afterStages = [];
            foreach ($names as $place => $ids) {
                $after[$place] = [];
                foreach ($ids as $id) {
                    if (! isset($found[$id])) {
                        $this->problem(
                            new JobProblem(
                                'record '.($from + $place + 1),
                                "task {$chunk['ids'][$place]}",
                                'after',
                                "names a task {$id}, which is not in the record",
                                'Send the whole job, or leave the id out.',
                                true,
                            ),
                        );

                        continue;
                    }
                    $after[$place][] = $found[$id][0];
                    // Along a circle ends cannot all rise.
                    $this->suspicious =
                        $this->suspicious || $found[$id][1] < 0 || $chunk['ended'][$place] < 0 || $found[$id][1] >= $chunk['ended'][$place];
                }
            }
            foreach ($stageNames as $place => $ids) {
                $this->suspicious = true;
                $afterStages[$place] = [];
                foreach ($ids as $id) {
                    if (! isset($this->stages[$id])) {
                        $this->problem(
                            new JobProblem(
                                'record '.($from + $place + 1),
                                "task {$chunk['ids'][$place]}",
                                'after_stages',
                                "names a stage {$id}, which is not in the record",
                                'Declare the stage, or leave it out.',
                                true,
                            ),
                        );

                        continue;
                    }
                    $afterStages[$place][] = $this->stages[$id];
                }
            }
            $this->store->put(
                $run->id,
                $number,
                count($chunk['ids']),
                ['after' => (object) $after, 'afterStages' => (object) $afterStages] + $chunk,
            );
            $this->beat($run, 'finding what waits for what', 0.6 + (0.35 * $from) / max(1, $count));
            if (count($this->problems) >= self::MOST_PROBLEMS) {
                return;
            }
        }
    }

    /**
     * @return list<Stage> by number
     */
    private function stageList(): array
    {
        $list = [];
        $some = $this->declared !== [];
        foreach ($this->stages as $id => $number) {
            $id = (string) $id;
            $stage = $this->declared[$number] ?? new Stage($id, $id);
            if ($some && ! isset($this->declared[$number])) {
                $this->problem(
                    new JobProblem(
                        '',
                        "stage {$id}",
                        '',
                        'is named by tasks but not declared',
                        'It is taken as a stage that waits for no other.',
                        false,
                    ),
                );
            }
            foreach ($stage->after as $before) {
                if (! isset($this->stages[$before])) {
                    $this->problem(
                        new JobProblem(
                            '',
                            "stage {$id}",
                            'after',
                            "names a stage {$before}, which is not in the record",
                            'Declare the stage, or leave it out.',
                            true,
                        ),
                    );
                }
            }
            $list[] = $stage;
        }

        return $list;
    }

    /**
     * @param  list<Stage>  $stages
     */
    private static function circular(array $stages): bool
    {
        $number = array_flip(array_map(static fn (Stage $stage): string => $stage->id, $stages));
        [$from, $to] = [[], []];
        foreach ($stages as $i => $stage) {
            foreach ($stage->after as $before) {
                $from[] = $number[$before] ?? $i;
                $to[] = $i;
            }
        }

        return TaskGraph::edges(count($stages), count($stages), $from, $to)->cycle() !== [];
    }

    /**
     * @param  list<Stage>  $stages
     */
    private function circle(JobRun $run, array $stages): void
    {
        $run->setAttribute('stages', array_map(static fn (Stage $stage): array => $stage->toArray(), $stages));
        $recorded = $this->store->load($run);
        $cycle = $recorded->graph->cycle();
        if ($cycle !== []) {
            $ids = array_map(
                static fn (int $task): string => $recorded->table->ids[$task],
                count($cycle) > 12 ? [...array_slice($cycle, 0, 11), $cycle[count($cycle) - 1]] : $cycle,
            );
            $this->problem(
                new JobProblem(
                    '',
                    "task {$ids[0]}",
                    'after',
                    'waits for itself in a circle: '.
                        implode(' before ', $ids).
                        (count($cycle) > 12 ? ' ('.count($cycle).' tasks)' : ''),
                    'Take one of these dependencies out.',
                    true,
                ),
            );
        }
    }

    /** Of a job of which nothing says whether it ended: over when nothing is left to do. */
    private function state(): JobState
    {
        return $this->open > 0 ? JobState::Running : ($this->failed > 0 ? JobState::Failed : JobState::Done);
    }

    private function refused(): bool
    {
        return $this->refusals > 0;
    }

    private function problem(JobProblem $problem): void
    {
        $this->problems[] = $problem;
        $this->refusals += $problem->refuses ? 1 : 0;
    }

    /**
     * @return list<string>
     */
    private function sentences(): array
    {
        return array_map(
            static fn (JobProblem $problem): string => $problem->sentence(),
            array_slice($this->problems, 0, self::MOST_PROBLEMS),
        );
    }

    private function beat(JobRun $run, string $what, float $share): bool
    {
        $now = (int) hrtime(true);
        if ($now - $this->last < self::BEAT_NS) {
            return true;
        }
        $this->last = $now;
        if ($run->stopAsked()) {
            return false;
        }
        $run->tell($what, min(0.99, $share));

        return true;
    }
}
