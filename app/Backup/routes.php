<?php

declare(strict_types=1);

use App\Backup\Http\BackupController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tend/backups')
    ->group(static function (): void {
        Route::get('/', [BackupController::class, 'show'])->name('backup.show');
        Route::get('/checks/{check}', [BackupController::class, 'progress'])->name('backup.progress')->whereNumber('check');
        Route::middleware('can:back-up')->group(static function (): void {
            Route::post('/{slug}/log', [BackupController::class, 'keep'])->name('backup.keep');
            Route::post('/{backup}/check', [BackupController::class, 'check'])->name('backup.check')->whereNumber('backup');
            Route::post('/{backup}/forget', [BackupController::class, 'forget'])->name('backup.forget')->whereNumber('backup');
            Route::post('/checks/{check}/stop', [BackupController::class, 'stop'])->name('backup.stop')->whereNumber('check');
        });
    });
