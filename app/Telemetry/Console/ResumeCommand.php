<?php

declare(strict_types=1);

namespace App\Telemetry\Console;

use App\Platform\Support\Clock;
use App\Telemetry\Intake\RunImport;
use App\Telemetry\Models\Import;
use Illuminate\Console\Command;

/**
 * Takes up imports whose process ended without a word. What was read is known and not counted twice.
 */
final class ResumeCommand extends Command
{
    protected $signature = 'telemetry:resume';

    protected $description = 'Goes on with imports whose process was killed; a second time they end as failed';

    private const RESUMED = 'Its process was killed, and it was begun again.';

    public function handle(): int
    {
        foreach (Import::query()->where('state', 'running')->get() as $import) {
            if (! $import->isBrokenOff()) {
                continue;
            }
            if ($import->error === self::RESUMED || $import->path === null || ! is_file($import->path)) {
                $import
                    ->forceFill([
                        'state' => 'failed',
                        'error' => 'Its process was killed'.
                            ($import->error === self::RESUMED ? ' twice' : ' and its file is gone').
                            '. Send the file again: what was taken is not counted twice.',
                        'ended_at' => Clock::now(),
                    ])
                    ->save();

                continue;
            }
            $import
                ->forceFill([
                    'state' => 'waiting',
                    'accepted' => 0,
                    'repeated' => 0,
                    'rejected' => 0,
                    'bytes_read' => 0,
                    'error' => self::RESUMED,
                ])
                ->save();
            RunImport::dispatch($import->id);
            $this->info("{$import->file_name} is read again.");
        }

        return self::SUCCESS;
    }
}
