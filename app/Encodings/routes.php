<?php

declare(strict_types=1);

use App\Encodings\Http\EncodingController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tune')
    ->group(static function (): void {
        Route::get('/encodings', [EncodingController::class, 'index'])->name('encoding.index');
        Route::get('/encodings/{run}', [EncodingController::class, 'show'])->name('encoding.show')->whereNumber('run');

        Route::middleware('role:engineer')->group(static function (): void {
            Route::post('/encodings', [EncodingController::class, 'start'])->name('encoding.start');
            Route::post('/encodings/{run}/stop', [EncodingController::class, 'stop'])->name('encoding.stop')->whereNumber('run');
            Route::post('/encodings/{run}/propose', [EncodingController::class, 'propose'])->name('encoding.propose')->whereNumber('run');
        });
    });
