<?php

declare(strict_types=1);

use App\Loading\Http\LoadingController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tend/loading')
    ->group(static function (): void {
        Route::get('/', [LoadingController::class, 'show'])->name('loading.show');
        Route::get('/trials/{trial}', [LoadingController::class, 'trial'])->name('loading.trial')->whereNumber('trial');
        Route::middleware('can:load')->group(static function (): void {
            Route::post('/{slug}/deliveries', [LoadingController::class, 'keep'])->name('loading.keep');
            Route::post('/{slug}/link', [LoadingController::class, 'link'])->name('loading.link');
            Route::post('/{slug}/try', [LoadingController::class, 'try'])->name('loading.try');
            Route::post('/trials/{trial}/stop', [LoadingController::class, 'stop'])->name('loading.stop')->whereNumber('trial');
        });
    });
