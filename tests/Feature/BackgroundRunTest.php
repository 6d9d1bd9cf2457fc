<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Encodings\Models\LabRun;
use App\Estate\Connectors\SourceError;
use App\Jobs\Models\JobRun;
use App\Ledger\Changes\ChangeAction;
use App\Ledger\Models\Change;
use App\Platform\Runs\BackgroundRun;
use App\Platform\Runs\Progress;
use App\Platform\Runs\RunStopped;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use App\Telemetry\Models\Import;
use App\Tuning\Models\TuningRun;
use App\Usage\Models\UsageRun;
use App\Workbench\Models\WorkbenchRun;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Queue;
use Illuminate\Support\Facades\Schema;
use Illuminate\Support\Str;
use LogicException;
use PHPUnit\Framework\Attributes\DataProvider;
use Tests\TestCase;
use Throwable;

/**
 * Whatever is done in the background lives, ends and is taken up again in the same way.
 */
final class BackgroundRunTest extends TestCase
{
    /**
     * @return iterable<string, array{class-string<Model&BackgroundRun>, array<string, mixed>, array<string, mixed>, int}>
     *     at work, waiting, seconds a living process may say nothing
     */
    public static function kinds(): iterable
    {
        $running = ['state' => 'running'];
        $waiting = ['state' => 'waiting'];
        yield 'import' => [Import::class, $running, $waiting, 120];
        yield 'lab' => [LabRun::class, $running, $waiting, 120];
        yield 'days of use' => [UsageRun::class, $running, $waiting, 120];
        yield 'tuning' => [TuningRun::class, $running, $waiting, 180];
        yield 'workbench' => [WorkbenchRun::class, $running, $waiting, 120];
        yield 'change' => [
            Change::class,
            ['doing' => ChangeAction::Apply, 'progress' => 'copying'],
            ['doing' => ChangeAction::Apply, 'progress' => Change::QUEUED],
            90,
        ];
        yield 'record' => [
            JobRun::class,
            ['state' => 'reading', 'progress' => 'reading tasks: 4096'],
            ['state' => 'reading', 'progress' => JobRun::QUEUED],
            180,
        ];
        yield 'judging' => [JobRun::class, ['state' => 'done', 'progress' => JobRun::JUDGED], ['state' => 'done', 'progress' => ''], 180];
    }

    /**
     * @param  class-string<Model&BackgroundRun>  $class
     * @param  array<string, mixed>  $working
     * @param  array<string, mixed>  $waiting
     */
    #[DataProvider('kinds')]
    public function test_a_process_that_says_nothing_is_missed_and_one_that_lives_is_not(
        string $class,
        array $working,
        array $waiting,
        int $seconds,
    ): void {
        Carbon::setTestNow('2026-11-20 10:00:00');
        $run = $this->started($class, $working);
        $run->heartbeat();
        foreach ([[0, false], [$seconds, false], [$seconds + 1, true]] as [$later, $silent]) {
            Carbon::setTestNow(Carbon::parse('2026-11-20 10:00:00')->addSeconds($later));
            self::assertSame([true, $silent], [$run->refresh()->isAtWork(), $run->isSilent()], "{$later} s later");
        }
        $run->heartbeat();
        self::assertFalse($run->refresh()->isSilent(), 'it has shown itself');
        $run->forceFill($waiting)->save();
        Carbon::setTestNow('2026-11-21 10:00:00');
        self::assertSame([false, false], [$run->isAtWork(), $run->isSilent()], 'what waits for a worker is no wreck');
        Carbon::setTestNow();
    }

    /**
     * @param  class-string<Model&BackgroundRun>  $class
     * @param  array<string, mixed>  $working
     */
    #[DataProvider('kinds')]
    public function test_who_is_asked_to_stop_hears_it_though_it_was_read_before(string $class, array $working): void
    {
        $run = $this->started($class, $working);
        $other = $class::query()->findOrFail($run->getKey());
        assert($other instanceof BackgroundRun);
        $progress = new Progress($run);
        self::assertFalse($progress->stop()());
        $progress->checkpoint('half of it', 0.5);
        $other->askToStop();
        self::assertTrue($run->stopAsked());
        self::assertTrue($progress->stop()());
        $this->expectException(RunStopped::class);
        $progress->checkpoint('more of it', 0.6);
    }

    public function test_a_page_asks_again_only_for_what_goes_on(): void
    {
        $at = static fn (string $state): array => ['state' => $state, 'heartbeat_us' => Clock::microseconds()];
        self::assertSame(
            [false, false, false, true, true, true],
            array_map(
                fn (string $state): bool => $this->started(Import::class, $at($state))->isOver(),
                ['mapping', 'waiting', 'running', 'done', 'stopped', 'failed'],
            ),
        );
        self::assertSame(
            [true, false, false, true],
            array_map(
                fn (string $state): bool => $this->started(TuningRun::class, $at($state))->isOver(),
                ['planned', 'waiting', 'running', 'done'],
            ),
        );
    }

    /**
     * @return iterable<string, array{Throwable|null, string, string|null}>
     */
    public static function ends(): iterable
    {
        yield 'done' => [null, 'done', null];
        yield 'stopped' => [new RunStopped(), 'stopped', 'Stopped by hand.'];
        yield 'stopped by its cluster' => [new SourceError('Ended after 60 s.', null, true), 'stopped', 'Ended after 60 s.'];
        yield 'refused' => [new SourceError('There is no table x.'), 'failed', 'There is no table x.'];
        yield 'broken' => [new LogicException('no such key'), 'failed', 'An error nobody foresaw: no such key'];
    }

    #[DataProvider('ends')]
    public function test_every_end_is_said(?Throwable $end, string $state, ?string $error): void
    {
        foreach ([LabRun::class, TuningRun::class, UsageRun::class] as $class) {
            $run = $this->started($class, ['state' => 'waiting']);
            $seen = '';
            $run->carryOut(static function (Progress $progress) use ($run, $end, &$seen): array {
                $seen = (string) $run->getAttribute('state');
                $progress->tell('at it', 0.25);

                return $end === null ? ['progress' => 'kept'] : throw $end;
            });
            $run->refresh();
            self::assertSame(
                ['running', $state, $error],
                [$seen, $run->getAttribute('state'), $run->getAttribute('error')],
            );
            self::assertSame($end === null ? ['kept', 1.0] : ['at it', 0.25], [
                $run->getAttribute('progress'),
                $run->getAttribute('done_share'),
            ]);
        }
    }

    public function test_what_was_killed_is_ended_or_taken_up_again_and_nothing_else(): void
    {
        Queue::fake();
        $silent = ['heartbeat_us' => Clock::microseconds() - 200_000_000];
        $alive = ['heartbeat_us' => Clock::microseconds() - 20_000_000];
        $ids = [];
        foreach ([LabRun::class, TuningRun::class, WorkbenchRun::class, Import::class, UsageRun::class] as $class) {
            $ids[$class] = [
                $this->started($class, ['state' => 'running'] + $silent)->getKey(),
                $this->started($class, ['state' => 'running'] + $alive)->getKey(),
                $this->started($class, ['state' => 'waiting'] + $silent)->getKey(),
            ];
        }
        $queued = $this->started(JobRun::class, ['state' => 'reading', 'progress' => JobRun::QUEUED] + $silent)->id;
        Artisan::call('platform:recover');
        $said = Artisan::output();
        foreach ($ids as $class => $three) {
            self::assertSame(
                [$class === WorkbenchRun::class ? 'lost' : 'failed', 'running', 'waiting'],
                array_map(static fn (mixed $id): mixed => $class::query()->whereKey($id)->value('state'), $three),
                $class,
            );
        }
        self::assertSame(5, substr_count(trim($said), "\n") + 1, $said);
        Artisan::call('platform:recover');
        self::assertSame('', trim(Artisan::output()), 'once is enough');
        Artisan::call('platform:recover', ['--now' => true]);
        self::assertSame('failed', LabRun::query()->whereKey($ids[LabRun::class][1])->value('state'));
        self::assertSame('reading', JobRun::query()->whereKey($queued)->value('state'), 'what waits for a worker is read yet');
    }

    /**
     * @template T of Model&BackgroundRun
     *
     * @param  class-string<T>  $class
     * @param  array<string, mixed>  $values
     * @return T
     */
    private function started(string $class, array $values): Model
    {
        $run = new $class();
        $plain = [
            'cluster_id' => (DB::table('clusters')->value('id') ?? $this->cluster()->id),
            'user_id' => $this->person(Role::Engineer)->id,
            'key' => (string) Str::uuid(),
            'external_id' => (string) Str::uuid(),
            'format' => 'jsonl',
            'mode' => 'run',
            'inverse' => 'none',
            'state' => $class === Change::class ? 'approved' : 'waiting',
        ];
        foreach (Schema::getColumns($run->getTable()) as $column) {
            if ($column['auto_increment'] || $column['name'] === 'id') {
                continue;
            }
            if (isset($plain[$column['name']])) {
                $run->setAttribute($column['name'], $plain[$column['name']]);
            } elseif (! $column['nullable'] && $column['default'] === null) {
                $blank = match (true) {
                    $column['type_name'] === 'longtext' || $column['type_name'] === 'json' => $run->hasCast($column['name']) ? [] : '[]',
                    preg_match('~int|float|double|decimal~', $column['type_name']) === 1 => 0,
                    preg_match('~date|time~', $column['type_name']) === 1 => Clock::now(),
                    default => '',
                };
                $run->setAttribute($column['name'], $blank);
            }
        }
        $run->forceFill($values)->save();

        return $run->refresh();
    }
}
