<?php

declare(strict_types=1);

namespace App\Tuning\Application;

use App\Tuning\Models\TuningRun;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

final class RunTuning implements ShouldQueue
{
    use Queueable;

    public int $timeout = 0;

    public int $tries = 1;

    public function __construct(public readonly int $runId)
    {
    }

    public function handle(TuningRunner $runner): void
    {
        $run = TuningRun::query()->find($this->runId);
        if ($run !== null && $run->state === 'waiting') {
            $runner->run($run);
        }
    }
}
