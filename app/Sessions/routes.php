<?php

declare(strict_types=1);

use App\Sessions\Http\LocksController;
use App\Sessions\Http\StopController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tune')
    ->group(static function (): void {
        Route::get('/locks', [LocksController::class, 'show'])->name('locks.show');

        Route::middleware('role:engineer')->group(static function (): void {
            Route::post('/locks/{cluster}/stop', [StopController::class, 'stop'])->name('session.stop');
        });
    });
