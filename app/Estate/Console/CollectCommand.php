<?php

declare(strict_types=1);

namespace App\Estate\Console;

use App\Estate\Collect\Collector;
use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use Illuminate\Console\Command;
use Illuminate\Support\Facades\Log;
use Throwable;

final class CollectCommand extends Command
{
    protected $signature = 'estate:collect {cluster? : only this one, due or not}';

    protected $description = 'Reads every live cluster whose interval has passed';

    public function handle(Collector $collector): int
    {
        $name = $this->argument('cluster');
        $query = Cluster::query()->where('connector', 'mariadb');
        $clusters = is_string($name) ? $query->where('slug', $name)->get() : $query->where('paused', false)->get()->filter(
            static fn (Cluster $cluster): bool => $cluster->polled_at === null || $cluster->polled_at->diffInSeconds(Clock::now()) >= $cluster->interval_seconds - 1
        );
        foreach ($clusters as $cluster) {
            try {
                $collector->poll($cluster);
            } catch (Throwable $exception) {
                // One broken cluster must not keep the others from being read.
                Log::error('Reading a cluster failed', ['cluster' => $cluster->slug, 'exception' => $exception]);
                $cluster->forceFill(['failing_since' => $cluster->failing_since ?? Clock::now(), 'last_error' => 'Reading succeeded but storing failed; see the log of the application.'])->save();
            }
        }

        return self::SUCCESS;
    }
}
