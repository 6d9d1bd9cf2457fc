<?php

declare(strict_types=1);

namespace App\Workbench\Application;

use App\Estate\Connectors\QueryResult;
use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use App\Platform\Runs\Progress;
use App\Platform\Support\Clock;
use App\Workbench\Models\WorkbenchRun;
use Closure;
use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Core\Text\Parts;
use Illuminate\Contracts\Encryption\Encrypter;
use Illuminate\Database\Eloquent\Collection;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\File;
use RuntimeException;

/**
 * What was run in the workbench, by whom, and what it gave. Texts and results can hold personal data: both are sealed,
 * and results are kept for a day.
 */
final readonly class WorkbenchRuns
{
    public const RESULT_HOURS = 24;

    public const HISTORY_DAYS = 90;

    /** From the end of a run to its outcome, at most. */
    private const ANSWERED_WITHIN_US = 15_000_000;

    public function __construct(private Encrypter $encrypter)
    {
    }

    /**
     * @param  string  $state waiting for a worker, or running; what waited is running from now on
     */
    public function begin(
        string $key,
        User $user,
        Cluster $cluster,
        string $schema,
        string $mode,
        string $sql,
        string $state = 'running',
    ): void {
        WorkbenchRun::query()->updateOrCreate(
            ['key' => $key],
            [
                'user_id' => $user->id,
                'cluster_id' => $cluster->id,
                'schema' => $schema,
                'mode' => $mode,
                'state' => $state,
                'statement' => (new Fingerprinter($cluster->dialect))->of($sql)->id,
                'sealed_sql' => $this->encrypter->encrypt($sql, false),
                'started_us' => Clock::microseconds(),
                'heartbeat_us' => Clock::microseconds(),
            ],
        );
    }

    /**
     * @param  array<string, mixed>  $values columns of the table
     */
    public function end(string $key, array $values): void
    {
        WorkbenchRun::query()->where('key', $key)->update($values);
    }

    public function askStop(string $key, int $userId): bool
    {
        return WorkbenchRun::query()
            ->where('key', $key)
            ->where('user_id', $userId)
            ->whereIn('state', ['waiting', 'running'])
            ->update(['stop_asked' => true]) > 0;
    }

    /**
     * Shows that its process lives, and asks whether it should stop.
     *
     * @return Closure(): bool
     */
    public function stop(string $key): Closure
    {
        $run = WorkbenchRun::query()->where('key', $key)->first();

        return $run === null ? static fn (): bool => true : (new Progress($run))->stop();
    }

    public function find(string $key, int $userId): ?WorkbenchRun
    {
        return WorkbenchRun::query()->where('key', $key)->where('user_id', $userId)->first();
    }

    public function sql(WorkbenchRun $run): string
    {
        return (string) $this->encrypter->decrypt($run->sealed_sql, false);
    }

    /**
     * @return list<array{WorkbenchRun, string}> run, its text; newest first
     */
    public function history(int $userId, string $words, int $limit): array
    {
        $found = [];
        /** @var Collection<int, WorkbenchRun> $runs */
        $runs = WorkbenchRun::query()
            ->join('clusters', 'clusters.id', '=', 'workbench_runs.cluster_id')
            ->where('user_id', $userId)
            ->orderByDesc('workbench_runs.id')
            ->select('workbench_runs.*', 'clusters.name as cluster', 'clusters.slug')
            ->limit(500)
            ->get();
        foreach ($runs as $run) {
            $sql = $this->sql($run);
            foreach (Parts::between(mb_strtolower($words), ' ') as $word) {
                if (! str_contains(mb_strtolower($sql), $word)) {
                    continue 2;
                }
            }
            $found[] = [$run, $sql];
            if (count($found) >= $limit) {
                break;
            }
        }

        return $found;
    }

    public function keepResult(string $key, QueryResult $result): void
    {
        $plain = json_encode(
            [
                'columns' => array_map(
                    static fn (Column $column): array => [
                        $column->name,
                        $column->type->kind->value,
                        $column->type->precision,
                        $column->type->scale,
                    ],
                    $result->columns,
                ),
                'rows' => $result->rows,
            ],
            JSON_THROW_ON_ERROR | JSON_PRESERVE_ZERO_FRACTION | JSON_INVALID_UTF8_SUBSTITUTE,
        );
        $this->seal($this->path($key), $plain);
    }

    /** Whether what came of a run is still on its way: it runs, further statements sent with it do, or they only just ended. */
    public function mayStillAnswer(WorkbenchRun $run): bool
    {
        if (in_array($run->state, ['waiting', 'running'], true)) {
            return true;
        }
        $since = WorkbenchRun::query();
        $since->where('user_id', $run->user_id)->where('id', '>=', $run->id);
        $endedUs = (int) (clone $since)->max(DB::raw('started_us + COALESCE(elapsed_us, 0)'));

        return (clone $since)->where('state', 'running')->exists() || Clock::microseconds() - $endedUs < self::ANSWERED_WITHIN_US;
    }

    /** The page's part that shows what a run gave, for whoever sent it. */
    public function keepOutcome(string $key, string $html): void
    {
        $this->seal($this->path("outcome {$key}"), $html);
    }

    public function outcome(string $key): ?string
    {
        $sealed = @file_get_contents($this->path("outcome {$key}"));

        return $sealed === false ? null : (string) gzinflate((string) $this->encrypter->decrypt($sealed, false));
    }

    private function seal(string $path, string $plain): void
    {
        is_dir(dirname($path)) || mkdir(dirname($path), 0o700, true);
        // Under another name first: whoever asks for it meanwhile finds all of it or nothing.
        file_put_contents("{$path}.part", $this->encrypter->encrypt((string) gzdeflate($plain, 1), false));
        chmod("{$path}.part", 0o600);
        rename("{$path}.part", $path);
    }

    /**
     * @return array{list<Column>, list<list<int|float|string|bool|null>>}|null null when it is no longer kept
     */
    public function result(string $key): ?array
    {
        $sealed = @file_get_contents($this->path($key));
        if ($sealed === false) {
            return null;
        }
        $values = json_decode((string) gzinflate((string) $this->encrypter->decrypt($sealed, false)), true);
        if (! is_array($values)) {
            throw new RuntimeException('A kept result cannot be read: was the application key changed?');
        }

        return [
            array_map(
                static fn (array $column): Column => new Column(
                    $column[0],
                    new ColumnType(TypeKind::from($column[1]), $column[2], $column[3]),
                ),
                array_values($values['columns']),
            ),
            $values['rows'],
        ];
    }

    /** Forgets what is kept no longer, and closes runs no process can be working on any more. */
    public function prune(): int
    {
        $now = Clock::microseconds();
        WorkbenchRun::query()
            ->where('state', 'waiting')
            ->where('started_us', '<', $now - 600_000_000)
            ->update(['state' => 'lost']);
        $gone = WorkbenchRun::query()
            ->where('started_us', '<', $now - self::HISTORY_DAYS * 86_400_000_000)
            ->delete();
        foreach (File::glob(storage_path('app/runs').'/*') as $path) {
            if (filemtime($path) < Clock::seconds() - self::RESULT_HOURS * 3600) {
                unlink($path);
                $gone++;
            }
        }

        return $gone;
    }

    private function path(string $key): string
    {
        return storage_path('app/runs/'.hash('sha256', $key));
    }
}
