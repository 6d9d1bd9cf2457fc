<?php

declare(strict_types=1);

use App\Platform\Support\ExportFormat;
use App\Usage\Http\DayController;
use App\Usage\Http\ExploreController;
use App\Usage\Http\ForecastController;
use App\Usage\Http\LimitController;
use App\Usage\Http\UsageController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('meter')
    ->group(static function (): void {
        Route::get('/usage', [UsageController::class, 'index'])->name('usage.index');
        Route::get('/why', [UsageController::class, 'why'])->name('usage.why');
        Route::get('/explore', [ExploreController::class, 'show'])->name('usage.explore');
        Route::get('/explore/export/{format}', [ExploreController::class, 'export'])
            ->name('usage.explore-export')
            ->whereIn('format', [...ExportFormat::words(), 'parquet']);
        Route::post('/explore/keep', [ExploreController::class, 'keep'])->name('usage.keep')->middleware('can:keep-views');
        Route::post('/explore/{view}/forget', [ExploreController::class, 'forget'])->name('usage.forget')->whereNumber('view');
        Route::get('/usage/export/{format}', [UsageController::class, 'export'])
            ->name('usage.export')
            ->whereIn('format', ExportFormat::words());
        Route::get('/forecast', [ForecastController::class, 'show'])->name('usage.forecast');
        Route::get('/forecast/export/{format}', [ForecastController::class, 'export'])
            ->name('usage.forecast-export')
            ->whereIn('format', ExportFormat::words());
        Route::get('/days', [DayController::class, 'index'])->name('usage.days');
        Route::middleware('can:make-days')->group(static function (): void {
            Route::post('/days', [DayController::class, 'make'])->name('usage.make-days');
            Route::post('/days/{run}/stop', [DayController::class, 'stop'])->name('usage.stop-days')->whereNumber('run');
        });
        Route::post('/days/zone', [DayController::class, 'zone'])->name('usage.zone')->middleware('can:set-zone');
        Route::middleware('can:limit-viewers')->group(static function (): void {
            Route::get('/viewers', [LimitController::class, 'index'])->name('usage.limits');
            Route::post('/viewers/{user}', [LimitController::class, 'set'])->name('usage.limit');
        });
    });
