<?php

declare(strict_types=1);

use App\Jobs\Http\JobController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tune')
    ->group(static function (): void {
        Route::get('/jobs', [JobController::class, 'index']);
        Route::get('/jobs/of/{slug}/{name}', [JobController::class, 'last'])->where('name', '.+');
        Route::get('/jobs/{run}', [JobController::class, 'show'])->whereNumber('run');
        Route::get('/jobs/{run}/forecast', [JobController::class, 'forecast'])->whereNumber('run');
        Route::get('/jobs/{run}/elastic', [JobController::class, 'elastic'])->whereNumber('run');
        Route::get('/jobs/{run}/marks', [JobController::class, 'marks'])->whereNumber('run');
        Route::get('/jobs/{run}/used', [JobController::class, 'used'])->whereNumber('run');
        Route::get('/jobs/{run}/at', [JobController::class, 'at'])->whereNumber('run');
        Route::get('/jobs/{run}/compare', [JobController::class, 'compare'])->whereNumber('run');
        Route::get('/jobs/{run}/stages/{stage}', [JobController::class, 'stage'])->whereNumber(['run', 'stage']);
        Route::get('/jobs/{run}/export/{format}', [JobController::class, 'export'])
            ->whereNumber('run')
            ->whereIn('format', ['json', 'csv', 'trace']);

        Route::middleware('role:engineer')->group(static function (): void {
            Route::post('/jobs', [JobController::class, 'store']);
            Route::post('/jobs/{run}/stop', [JobController::class, 'stop'])->whereNumber('run');
            Route::post('/jobs/{run}/forget', [JobController::class, 'forget'])->whereNumber('run');
            Route::post('/jobs/{run}/aim', [JobController::class, 'aim'])->whereNumber('run');
            Route::post('/jobs/{run}/pin', [JobController::class, 'pin'])->whereNumber('run');
            Route::post('/jobs/{run}/again', [JobController::class, 'again'])->whereNumber('run');
        });
    });
