<?php

declare(strict_types=1);

use App\Storage\Http\FilesController;
use App\Storage\Http\LayoutController;
use App\Storage\Http\MaintenanceController;
use App\Storage\Http\RollupController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tune')
    ->group(static function (): void {
        Route::get('/layout', [LayoutController::class, 'index'])->name('layout.index');
        Route::get('/layout/rules', [LayoutController::class, 'rules'])->name('layout.rules');
        Route::get('/layout/rules/{rule}', [LayoutController::class, 'rule'])->name('layout.rule')->where('rule', '[a-z-]+');
        Route::get('/layout/files', [FilesController::class, 'index'])->name('files.index');
        Route::get('/layout/files/{folder}', [FilesController::class, 'show'])->name('files.show')->where('folder', '[a-z0-9][a-z0-9-]*');
        Route::get('/layout/maintenance', [MaintenanceController::class, 'index'])->name('maintenance.index');
        Route::get('/layout/{slug}/{name}', [LayoutController::class, 'show'])->name('layout.show')->where('name', '.+\..+');
        Route::get('/rollups', [RollupController::class, 'index'])->name('rollup.index');

        Route::middleware('role:engineer')->group(static function (): void {
            Route::get('/layout-advice/{slug}/{name}', [LayoutController::class, 'advice'])->name('layout.advice')->where('name', '.+\..+');
            Route::post('/layout-audit/{slug}', [LayoutController::class, 'audit'])->name('layout.audit');
            Route::post('/layout-statistics/{slug}', [LayoutController::class, 'statistics'])->name('layout.statistics');
            Route::post('/layout-rules/{slug}/{rule}', [LayoutController::class, 'saveRule'])->name('layout.save-rule')->where('rule',
                '[a-z-]+');
            Route::post('/layout-findings/{finding}/propose', [LayoutController::class,
                'proposeFinding'])->name('layout.propose-finding')->whereNumber('finding');
            Route::post('/layout-propose/{slug}/{name}', [LayoutController::class, 'propose'])->name('layout.propose')->where('name',
                '.+\..+');
            Route::post('/layout-files', [FilesController::class, 'store'])->name('files.store');
            Route::post('/layout-files/{folder}/forget', [FilesController::class, 'forget'])->name('files.forget')->where('folder',
                '[a-z0-9][a-z0-9-]*');
            Route::post('/layout-maintenance/{slug}/{name}', [MaintenanceController::class,
                'store'])->name('maintenance.store')->where('name', '.+\..+');
            Route::post('/maintenance/{plan}/run', [MaintenanceController::class, 'run'])->name('maintenance.run')->whereNumber('plan');
            Route::post('/maintenance/{plan}/remove', [MaintenanceController::class,
                'remove'])->name('maintenance.remove')->whereNumber('plan');
            Route::post('/rollups/{slug}/refresh', [RollupController::class, 'refresh'])->name('rollup.refresh');
            Route::post('/rollups/{slug}/drop', [RollupController::class, 'drop'])->name('rollup.drop');
            Route::post('/rollups/{slug}/rollups/{name}', [RollupController::class, 'rollups'])->name('rollup.rollups')->where('name',
                '.+\..+');
            Route::post('/rollups/{slug}/lookups/{name}', [RollupController::class, 'lookup'])->name('rollup.lookup')->where('name',
                '.+\..+');
        });
    });
