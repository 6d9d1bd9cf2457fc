<?php

declare(strict_types=1);

use App\Profiles\Http\ProfileController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tend/profiles')
    ->group(static function (): void {
        Route::get('/', [ProfileController::class, 'index'])->name('profile.index');
        Route::get('/{profile}', [ProfileController::class, 'show'])->name('profile.show')->whereNumber('profile');
        Route::get('/{profile}/progress', [ProfileController::class, 'progress'])->name('profile.progress')->whereNumber('profile');
        Route::get('/{profile}/file', [ProfileController::class, 'file'])->name('profile.file')->whereNumber('profile');
        Route::middleware('can:profile')->group(static function (): void {
            Route::post('/', [ProfileController::class, 'keep'])->name('profile.keep');
            Route::post('/take', [ProfileController::class, 'take'])->name('profile.take');
            Route::post('/{profile}/stop', [ProfileController::class, 'stop'])->name('profile.stop')->whereNumber('profile');
            Route::post('/{profile}/remove', [ProfileController::class, 'remove'])->name('profile.remove')->whereNumber('profile');
        });
    });
