<?php

declare(strict_types=1);

namespace App\Tuning\Console;

use App\Platform\Support\Clock;
use App\Tuning\Application\RunTuning;
use App\Tuning\Models\TuningRun;
use Illuminate\Console\Command;

final class TuningCommand extends Command
{
    protected $signature = 'tuning:tonight';

    protected $description = 'Starts tuning runs whose time has come';

    public function handle(): int
    {
        foreach (TuningRun::query()->where('state', 'planned')->get() as $run) {
            if (
                ($run->limits['atUs'] ?? 0) <= Clock::microseconds() &&
                TuningRun::query()
                    ->whereKey($run->id)
                    ->where('state', 'planned')
                    ->update(['state' => 'waiting', 'heartbeat_us' => Clock::microseconds()]) === 1
            ) {
                RunTuning::dispatch($run->id);
            }
        }

        return self::SUCCESS;
    }
}
