<?php

declare(strict_types=1);

use App\Tuning\Http\IndexController;
use App\Tuning\Http\RewriteController;
use App\Tuning\Http\TuningController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tune')
    ->group(static function (): void {
        Route::get('/indexes', [IndexController::class, 'index'])->name('index.index');
        Route::get('/tuning', [TuningController::class, 'index'])->name('tuning.index');
        Route::get('/tuning/{run}', [TuningController::class, 'show'])->name('tuning.show')->whereNumber('run');
        Route::get('/tuning/{run}/report', [TuningController::class, 'report'])->name('tuning.report')->whereNumber('run');

        Route::middleware('role:engineer')->group(static function (): void {
            Route::get('/rewrites', [RewriteController::class, 'index'])->name('rewrite.index');
            Route::post('/rewrites', [RewriteController::class, 'ask'])->name('rewrite.ask');
            Route::get('/rewrites/{key}', [RewriteController::class, 'show'])->name('rewrite.show')->whereUuid('key');
            Route::get('/rewrites/{key}/without/{rewrite}', [RewriteController::class, 'without'])->name('rewrite.without')
                ->whereUuid('key')
                ->where('rewrite', '[a-z-]+');
            Route::get('/rewrites/{key}/instead/{way}', [RewriteController::class, 'instead'])->name('rewrite.instead')
                ->whereUuid('key')
                ->where('way', '[a-z-]+');
            Route::post('/indexes/{slug}/propose', [IndexController::class, 'propose'])->name('index.propose');
            Route::post('/tuning', [TuningController::class, 'start'])->name('tuning.start');
            Route::post('/tuning/{run}/stop', [TuningController::class, 'stop'])->name('tuning.stop')->whereNumber('run');
            Route::post('/tuning/{run}/apply', [TuningController::class, 'apply'])->name('tuning.apply')->whereNumber('run');
        });
    });
