<?php

declare(strict_types=1);

use App\Overview\Http\RoundController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])->group(static function (): void {
    Route::get('/', RoundController::class)->name('round');
});
