<?php

declare(strict_types=1);

use App\Baseline\Http\BaselineController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tend/baseline')
    ->group(static function (): void {
        Route::get('/', [BaselineController::class, 'show'])->name('baseline.show');
        Route::get('/runs/{baseline}', [BaselineController::class, 'run'])->name('baseline.run')->whereNumber('baseline');
        Route::middleware('can:measure')->group(static function (): void {
            Route::post('/{slug}', [BaselineController::class, 'measure'])->name('baseline.measure');
            Route::post('/runs/{baseline}/stop', [BaselineController::class, 'stop'])->name('baseline.stop')->whereNumber('baseline');
        });
    });
