<?php

declare(strict_types=1);

use App\Backup\Http\BackupLogController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth:sanctum', 'throttle:executions'])->group(static function (): void {
    Route::post('/backups', BackupLogController::class)->name('backups');
});
