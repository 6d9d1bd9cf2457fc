<?php

declare(strict_types=1);

namespace App\Jobs\Application;

use App\Jobs\Models\JobRun;
use App\Platform\Support\Clock;

/**
 * A record whose process was killed: what it had read goes, and what it had not judged is judged.
 */
final readonly class BrokenJobRecord
{
    public function __construct(private JobRunStore $store)
    {
    }

    /** @return string what was done */
    public function recover(JobRun $run): string
    {
        if ($run->state !== 'reading') {
            $run->update(['heartbeat_us' => Clock::microseconds()]);
            JudgeJobRun::dispatch($run->id);

            return "run {$run->id} of {$run->name} is judged again.";
        }
        $this->store->forget($run->id);
        if ($run->path !== null) {
            @unlink($run->path);
        }
        $run->update([
            'state' => 'refused',
            'path' => null,
            'tasks' => 0,
            'progress' => '',
            'problems' => ['Its process was killed before the record was read. Send the file again.'],
        ]);

        return "{$run->file_name} could not be read to its end.";
    }
}
