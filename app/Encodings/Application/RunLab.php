<?php

declare(strict_types=1);

namespace App\Encodings\Application;

use App\Encodings\Models\LabRun;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

final class RunLab implements ShouldQueue
{
    use Queueable;

    public int $timeout = 0;

    public int $tries = 1;

    public function __construct(public readonly int $runId, public readonly string $file = '')
    {
    }

    public function handle(LabRunner $runner): void
    {
        $run = LabRun::query()->find($this->runId);
        if ($run !== null && $run->state === 'waiting') {
            $runner->run($run, $this->file);
        }
    }
}
