<?php

declare(strict_types=1);

use App\Metrics\Http\PlaceController;
use App\Metrics\Http\SourceController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tend/sources')
    ->group(static function (): void {
        Route::get('/', [SourceController::class, 'index'])->name('source.index');
        Route::middleware('can:connect')->group(static function (): void {
            Route::post('/', [SourceController::class, 'add'])->name('source.add');
            Route::post('/{scrape}/remove', [SourceController::class, 'remove'])->name('source.remove')->whereNumber('scrape');
        });
    });

Route::middleware(['auth', 'role:any', 'can:connect'])
    ->prefix('tend/setup/{slug}/place')
    ->group(static function (): void {
        Route::get('/', [PlaceController::class, 'show'])->name('place.show');
        Route::post('/', [PlaceController::class, 'set'])->name('place.set');
        Route::post('/again', [PlaceController::class, 'again'])->name('place.again');
        Route::post('/back', [PlaceController::class, 'back'])->name('place.back');
    });
