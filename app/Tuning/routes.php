<?php

declare(strict_types=1);

use App\Tuning\Http\IndexController;
use App\Tuning\Http\RewriteController;
use App\Tuning\Http\TuningController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tune')
    ->group(static function (): void {
        Route::get('/indexes', [IndexController::class, 'index']);
        Route::get('/tuning', [TuningController::class, 'index']);
        Route::get('/tuning/{run}', [TuningController::class, 'show'])->whereNumber('run');
        Route::get('/tuning/{run}/report', [TuningController::class, 'report'])->whereNumber('run');

        Route::middleware('role:engineer')->group(static function (): void {
            Route::get('/rewrites', [RewriteController::class, 'index']);
            Route::post('/rewrites', [RewriteController::class, 'ask']);
            Route::get('/rewrites/{key}', [RewriteController::class, 'show'])->whereUuid('key');
            Route::get('/rewrites/{key}/without/{rewrite}', [RewriteController::class, 'without'])
                ->whereUuid('key')
                ->where('rewrite', '[a-z-]+');
            Route::get('/rewrites/{key}/instead/{way}', [RewriteController::class, 'instead'])
                ->whereUuid('key')
                ->where('way', '[a-z-]+');
            Route::post('/indexes/{slug}/propose', [IndexController::class, 'propose']);
            Route::post('/tuning', [TuningController::class, 'start']);
            Route::post('/tuning/{run}/stop', [TuningController::class, 'stop'])->whereNumber('run');
            Route::post('/tuning/{run}/apply', [TuningController::class, 'apply'])->whereNumber('run');
        });
    });
