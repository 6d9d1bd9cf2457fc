<?php

declare(strict_types=1);

use App\Telemetry\Http\ImportController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tune')
    ->group(static function (): void {
        Route::get('/imports', [ImportController::class, 'index'])->name('import.index');
        Route::get('/imports/{import}', [ImportController::class, 'show'])->name('import.show');

        Route::middleware('role:engineer')->group(static function (): void {
            Route::post('/imports', [ImportController::class, 'store'])->name('import.store');
            Route::get('/imports/{import}/columns', [ImportController::class, 'columns'])->name('import.columns');
            Route::post('/imports/{import}/columns', [ImportController::class, 'saveColumns'])->name('import.save-columns');
            Route::post('/imports/{import}/stop', [ImportController::class, 'stop'])->name('import.stop');
            Route::get('/imports/{import}/rejected', [ImportController::class, 'rejected'])->name('import.rejected');
        });
    });
