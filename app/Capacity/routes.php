<?php

declare(strict_types=1);

use App\Capacity\Http\StorageController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tend')
    ->group(static function (): void {
        Route::get('/storage', [StorageController::class, 'show'])->name('capacity.show');
    });
