<?php

declare(strict_types=1);

use App\Health\Http\ClusterLinesController;
use App\Health\Http\HostController;
use App\Health\Http\LiveController;
use App\Health\Http\ProbeController;
use App\Health\Http\SetupController;
use App\Health\Http\StateController;
use App\Health\Http\TimeController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tend')
    ->group(static function (): void {
        Route::get('/state', [StateController::class, 'show'])->name('state.show');
        Route::get('/beside', [HostController::class, 'beside'])->name('host.beside');
        Route::get('/hosts', [HostController::class, 'show'])->name('host.show');
        Route::get('/lines', ClusterLinesController::class)->name('cluster.lines');
        Route::get('/time', [TimeController::class, 'show'])->name('cluster.time');
        Route::get('/moment', [TimeController::class, 'moment'])->name('moment.show');
        Route::get('/moment/file', [TimeController::class, 'file'])->name('moment.file');
        Route::get('/system', [ProbeController::class, 'show'])->name('system.show');
        Route::middleware('can:probe')->group(static function (): void {
            Route::post('/probes', [ProbeController::class, 'set'])->name('probe.set');
            Route::post('/probes/{slug}', [ProbeController::class, 'switch'])->name('probe.switch');
        });
        Route::get('/live', [LiveController::class, 'show'])->name('host.live');
        Route::get('/live/part', [LiveController::class, 'part'])->name('host.live-part');
        Route::middleware('can:connect')->group(static function (): void {
            Route::get('/setup/{slug}', [SetupController::class, 'show'])->name('setup.show');
            Route::post('/setup/{slug}', [SetupController::class, 'compare'])->name('setup.compare');
        });
        Route::get('/state/beside', [StateController::class, 'beside'])->name('state.beside');
    });
