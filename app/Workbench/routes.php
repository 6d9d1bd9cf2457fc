<?php

declare(strict_types=1);

use App\Workbench\Http\CatalogController;
use App\Workbench\Http\WorkbenchController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tune')
    ->group(static function (): void {
        Route::get('/catalog', [CatalogController::class, 'index'])->name('catalog.index');
        Route::get('/catalog/words', [CatalogController::class, 'words'])->name('catalog.words');
        Route::get('/catalog/{slug}/{schema}/{name}', [CatalogController::class, 'show'])->name('catalog.show');

        Route::middleware('role:engineer')->group(static function (): void {
            Route::get('/workbench', [WorkbenchController::class, 'show'])->name('workbench.show');
            Route::post('/workbench/runs', [WorkbenchController::class, 'run'])->name('workbench.run');
            Route::get('/workbench/runs/{key}', [WorkbenchController::class, 'outcome'])->name('workbench.outcome')->whereUuid('key');
            Route::post('/workbench/runs/{key}/stop', [WorkbenchController::class, 'stop'])->name('workbench.stop')->whereUuid('key');
            Route::get('/workbench/runs/{key}/result/{format}', [WorkbenchController::class, 'download'])->name('workbench.download')
                ->whereUuid('key')
                ->whereIn('format', ['csv', 'json', 'xlsx', 'parquet']);
            Route::post('/workbench/inbox', [WorkbenchController::class, 'receive'])->name('workbench.receive');
            Route::get('/workbench/history', [WorkbenchController::class, 'history'])->name('workbench.history');
        });
    });
