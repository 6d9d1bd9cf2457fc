<?php

declare(strict_types=1);

namespace App\Telemetry\Intake;

use App\Platform\Support\Clock;
use App\Telemetry\Models\Import;

/**
 * Goes on with an import whose process was killed; a second time it ends as failed. What was read is known and not counted twice.
 */
final readonly class BrokenImport
{
    private const RESUMED = 'Its process was killed, and it was begun again.';

    /** @return string what was done */
    public static function recover(Import $import): string
    {
        $twice = $import->error === self::RESUMED;
        if ($twice || $import->path === null || ! is_file($import->path)) {
            $import
                ->forceFill([
                    'state' => 'failed',
                    'error' => 'Its process was killed'.
                        ($twice ? ' twice' : ' and its file is gone').
                        '. Send the file again: what was taken is not counted twice.',
                    'ended_at' => Clock::now(),
                ])
                ->save();

            return "{$import->file_name} could not be read to its end.";
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

        return "{$import->file_name} is read again.";
    }
}
