<?php

declare(strict_types=1);

use App\Telemetry\Http\ImportController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tune')
    ->group(static function (): void {
        Route::get('/imports', [ImportController::class, 'index']);
        Route::get('/imports/{import}', [ImportController::class, 'show']);

        Route::middleware('role:engineer')->group(static function (): void {
            Route::post('/imports', [ImportController::class, 'store']);
            Route::get('/imports/{import}/columns', [ImportController::class, 'columns']);
            Route::post('/imports/{import}/columns', [ImportController::class, 'saveColumns']);
            Route::post('/imports/{import}/stop', [ImportController::class, 'stop']);
            Route::get('/imports/{import}/rejected', [ImportController::class, 'rejected']);
        });
    });
