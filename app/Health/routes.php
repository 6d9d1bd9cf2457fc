<?php

declare(strict_types=1);

use App\Health\Http\HostController;
use App\Health\Http\StateController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tend')
    ->group(static function (): void {
        Route::get('/state', [StateController::class, 'show'])->name('state.show');
        Route::get('/beside', [HostController::class, 'beside'])->name('host.beside');
        Route::get('/hosts', [HostController::class, 'show'])->name('host.show');
        Route::get('/state/beside', [StateController::class, 'beside'])->name('state.beside');
    });
