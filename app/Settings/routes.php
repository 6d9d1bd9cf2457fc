<?php

declare(strict_types=1);

use App\Settings\Http\SettingController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tend/settings')
    ->group(static function (): void {
        Route::get('/', [SettingController::class, 'index'])->name('setting.index');
        Route::get('/{slug}/profile', [SettingController::class, 'profile'])->name('setting.profile');
        Route::get('/{slug}/profile/file', [SettingController::class, 'file'])->name('setting.file');
        Route::middleware('can:setting')->group(static function (): void {
            Route::post('/{slug}/profile', [SettingController::class, 'save'])->name('setting.save');
            Route::post('/{slug}/profile/forget', [SettingController::class, 'forget'])->name('setting.forget');
            Route::post('/{slug}/read', [SettingController::class, 'read'])->name('setting.read');
            Route::post('/{slug}/propose', [SettingController::class, 'propose'])->name('setting.propose');
        });
    });
