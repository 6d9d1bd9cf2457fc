<?php

declare(strict_types=1);

namespace App\Usage\Application;

use App\Estate\Models\Cluster;
use App\Platform\Runs\Progress;
use App\Platform\Support\Clock;
use App\Usage\Models\UsageRun;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/**
 * Rebuilds a range of days; what is stopped half way stays as far as it came, and can be asked for again.
 */
final class RemakeDays implements ShouldQueue
{
    use Queueable;

    public int $timeout = 0;

    public int $tries = 1;

    public function __construct(public readonly int $runId)
    {
    }

    public function handle(DayMaker $maker): void
    {
        $run = UsageRun::query()->find($this->runId);
        if ($run === null || $run->state !== 'waiting') {
            return;
        }
        $run->carryOut(static function (Progress $progress) use ($run, $maker): array {
            $result = [];
            $clusters = Cluster::query()->orderBy('name')->get();
            foreach ($clusters as $i => $cluster) {
                $count = $maker->make(
                    $cluster,
                    $run->from_at,
                    $run->to_at,
                    Clock::seconds(),
                    true,
                    static fn (string $day, float $share) => $progress->checkpoint($day, ($i + $share) / count($clusters)),
                );
                $result[$cluster->name] = DayMaker::said($count) === '' ? 'no load of these days' : DayMaker::said($count);
            }

            return ['result' => $result];
        });
    }
}
