<?php

declare(strict_types=1);

namespace App\Telemetry\Intake;

use App\Telemetry\Models\Import;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

final class RunImport implements ShouldQueue
{
    use Queueable;

    public int $timeout = 0;

    public int $tries = 1;

    public function __construct(public readonly string $importId)
    {
    }

    public function handle(ImportRunner $runner): void
    {
        $import = Import::query()->find($this->importId);
        if ($import === null || $import->state !== 'waiting') {
            return;
        }
        $runner->run($import);
        if ($import->path !== null && str_starts_with($import->path, storage_path('app/uploads/'))) {
            @unlink($import->path);
        }
    }
}
