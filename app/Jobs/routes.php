<?php

declare(strict_types=1);

use App\Jobs\Http\JobController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tune')
    ->group(static function (): void {
        Route::get('/jobs', [JobController::class, 'index'])->name('job.index');
        Route::get('/jobs/of/{slug}/{name}', [JobController::class, 'last'])->name('job.last')->where('name', '.+');
        Route::get('/jobs/{run}', [JobController::class, 'show'])->name('job.show')->whereNumber('run');
        Route::get('/jobs/{run}/forecast', [JobController::class, 'forecast'])->name('job.forecast')->whereNumber('run');
        Route::get('/jobs/{run}/elastic', [JobController::class, 'elastic'])->name('job.elastic')->whereNumber('run');
        Route::get('/jobs/{run}/marks', [JobController::class, 'marks'])->name('job.marks')->whereNumber('run');
        Route::get('/jobs/{run}/used', [JobController::class, 'used'])->name('job.used')->whereNumber('run');
        Route::get('/jobs/{run}/at', [JobController::class, 'at'])->name('job.at')->whereNumber('run');
        Route::get('/jobs/{run}/compare', [JobController::class, 'compare'])->name('job.compare')->whereNumber('run');
        Route::get('/jobs/{run}/stages/{stage}', [JobController::class, 'stage'])->name('job.stage')->whereNumber(['run', 'stage']);
        Route::get('/jobs/{run}/export/{format}', [JobController::class, 'export'])->name('job.export')
            ->whereNumber('run')
            ->whereIn('format', ['json', 'csv', 'trace']);

        Route::middleware('role:engineer')->group(static function (): void {
            Route::post('/jobs', [JobController::class, 'store'])->name('job.store');
            Route::post('/jobs/{run}/stop', [JobController::class, 'stop'])->name('job.stop')->whereNumber('run');
            Route::post('/jobs/{run}/forget', [JobController::class, 'forget'])->name('job.forget')->whereNumber('run');
            Route::post('/jobs/{run}/aim', [JobController::class, 'aim'])->name('job.aim')->whereNumber('run');
            Route::post('/jobs/{run}/pin', [JobController::class, 'pin'])->name('job.pin')->whereNumber('run');
            Route::post('/jobs/{run}/again', [JobController::class, 'again'])->name('job.again')->whereNumber('run');
        });
    });
