<?php

declare(strict_types=1);

namespace App\Jobs\Application;

use App\Jobs\Models\JobRun;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

final class ReadJobRecord implements ShouldQueue
{
    use Queueable;

    public int $timeout = 0;

    public int $tries = 1;

    /**
     * @param  array<string, mixed>  $given
     */
    public function __construct(public readonly int $runId, public readonly array $given)
    {
    }

    public function handle(RecordedJobs $recorded): void
    {
        $run = JobRun::query()->find($this->runId);
        if ($run !== null && $run->state === 'reading' && $run->path !== null) {
            $path = $run->path;
            try {
                $recorded->read($run, $path, $this->given);
            } finally {
                @unlink($path);
            }
        }
    }
}
