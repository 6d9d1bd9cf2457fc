<?php

declare(strict_types=1);

namespace App\Telemetry\Console;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Telemetry\Collect\Collector;
use Illuminate\Console\Command;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\Cache;
use Illuminate\Support\Facades\Log;
use Symfony\Component\Process\Exception\ProcessTimedOutException;
use Symfony\Component\Process\Process;
use Throwable;

final class CollectCommand extends Command
{
    private const LEASE_SECONDS = 120;

    protected $signature = 'telemetry:collect {cluster? : only this one, due or not}';

    protected $description = 'Reads every live cluster whose interval has passed';

    public function handle(Collector $collector): int
    {
        $name = $this->argument('cluster');
        $query = Cluster::query()->where('connector', 'mariadb');
        $clusters = is_string($name)
            ? $query->where('slug', $name)->get()
            : $query
                ->where('paused', false)
                ->get()
                ->filter(
                    static fn (Cluster $cluster): bool => $cluster->polled_at === null ||
                        $cluster->polled_at->diffInSeconds(Clock::now()) >= $cluster->interval_seconds - 1,
                );
        if (! is_string($name) && $clusters->count() > 1) {
            return $this->beside($clusters);
        }
        foreach ($clusters as $cluster) {
            // One process at a time reads a cluster, whoever started it.
            $lease = Cache::lock("collect {$cluster->id}", self::LEASE_SECONDS);
            if ($lease->get() !== true) {
                continue;
            }
            try {
                $collector->poll($cluster);
            } catch (Throwable $exception) {
                // One broken cluster must not keep the others from being read.
                Log::error('Reading a cluster failed', ['cluster' => $cluster->slug, 'exception' => $exception]);
                $cluster
                    ->forceFill([
                        'failing_since' => $cluster->failing_since ?? Clock::now(),
                        'last_error' => 'Reading succeeded but storing failed; see the log of the application.',
                    ])
                    ->save();
            } finally {
                $lease->release();
            }
        }

        return self::SUCCESS;
    }

    /**
     * Each in a process of its own: a server that takes the call and then is silent keeps nobody else waiting.
     *
     * @param  Collection<int, Cluster>  $clusters
     */
    private function beside(Collection $clusters): int
    {
        $processes = [];
        foreach ($clusters as $cluster) {
            $process = new Process(
                [PHP_BINARY, base_path('artisan'), 'telemetry:collect', $cluster->slug],
                base_path(),
                null,
                null,
                self::LEASE_SECONDS,
            );
            $process->disableOutput();
            $process->start();
            $processes[] = $process;
        }
        foreach ($processes as $process) {
            try {
                $process->wait();
            } catch (ProcessTimedOutException) {
                $this->error($process->getCommandLine().' took longer than '.self::LEASE_SECONDS.' s and was ended.');
            }
        }

        return self::SUCCESS;
    }
}
