<?php

declare(strict_types=1);

use App\Workbench\Http\CatalogController;
use App\Workbench\Http\WorkbenchController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tune')
    ->group(static function (): void {
        Route::get('/catalog', [CatalogController::class, 'index']);
        Route::get('/catalog/{slug}/{schema}/{name}', [CatalogController::class, 'show']);

        Route::middleware('role:engineer')->group(static function (): void {
            Route::get('/workbench', [WorkbenchController::class, 'show']);
            Route::post('/workbench/runs', [WorkbenchController::class, 'run']);
            Route::get('/workbench/runs/{key}', [WorkbenchController::class, 'outcome'])->whereUuid('key');
            Route::post('/workbench/runs/{key}/stop', [WorkbenchController::class, 'stop'])->whereUuid('key');
            Route::get('/workbench/runs/{key}/result/{format}', [WorkbenchController::class, 'download'])
                ->whereUuid('key')
                ->whereIn('format', ['csv', 'json', 'parquet']);
            Route::post('/workbench/inbox', [WorkbenchController::class, 'receive']);
            Route::get('/workbench/history', [WorkbenchController::class, 'history']);
        });
    });
