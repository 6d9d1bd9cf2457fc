<?php

declare(strict_types=1);

use App\Storage\Http\EncodingController;
use App\Storage\Http\FilesController;
use App\Storage\Http\LayoutController;
use App\Storage\Http\MaintenanceController;
use App\Storage\Http\RollupController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tune')
    ->group(static function (): void {
        Route::get('/layout', [LayoutController::class, 'index']);
        Route::get('/layout/rules', [LayoutController::class, 'rules']);
        Route::get('/layout/rules/{rule}', [LayoutController::class, 'rule'])->where('rule', '[a-z-]+');
        Route::get('/layout/files', [FilesController::class, 'index']);
        Route::get('/layout/files/{folder}', [FilesController::class, 'show'])->where('folder', '[a-z0-9][a-z0-9-]*');
        Route::get('/layout/maintenance', [MaintenanceController::class, 'index']);
        Route::get('/layout/{slug}/{name}', [LayoutController::class, 'show'])->where('name', '.+\..+');
        Route::get('/encodings', [EncodingController::class, 'index']);
        Route::get('/encodings/{run}', [EncodingController::class, 'show'])->whereNumber('run');
        Route::get('/rollups', [RollupController::class, 'index']);

        Route::middleware('role:engineer')->group(static function (): void {
            Route::get('/layout-advice/{slug}/{name}', [LayoutController::class, 'advice'])->where('name', '.+\..+');
            Route::post('/layout-audit/{slug}', [LayoutController::class, 'audit']);
            Route::post('/layout-statistics/{slug}', [LayoutController::class, 'statistics']);
            Route::post('/layout-rules/{slug}/{rule}', [LayoutController::class, 'saveRule'])->where('rule', '[a-z-]+');
            Route::post('/layout-findings/{finding}/propose', [LayoutController::class, 'proposeFinding'])->whereNumber('finding');
            Route::post('/layout-propose/{slug}/{name}', [LayoutController::class, 'propose'])->where('name', '.+\..+');
            Route::post('/layout-files', [FilesController::class, 'store']);
            Route::post('/layout-files/{folder}/forget', [FilesController::class, 'forget'])->where('folder', '[a-z0-9][a-z0-9-]*');
            Route::post('/layout-maintenance/{slug}/{name}', [MaintenanceController::class, 'store'])->where('name', '.+\..+');
            Route::post('/maintenance/{plan}/run', [MaintenanceController::class, 'run'])->whereNumber('plan');
            Route::post('/maintenance/{plan}/remove', [MaintenanceController::class, 'remove'])->whereNumber('plan');
            Route::post('/encodings', [EncodingController::class, 'start']);
            Route::post('/encodings/{run}/stop', [EncodingController::class, 'stop'])->whereNumber('run');
            Route::post('/encodings/{run}/propose', [EncodingController::class, 'propose'])->whereNumber('run');
            Route::post('/rollups/{slug}/refresh', [RollupController::class, 'refresh']);
            Route::post('/rollups/{slug}/drop', [RollupController::class, 'drop']);
            Route::post('/rollups/{slug}/rollups/{name}', [RollupController::class, 'rollups'])->where('name', '.+\..+');
            Route::post('/rollups/{slug}/lookups/{name}', [RollupController::class, 'lookup'])->where('name', '.+\..+');
        });
    });
