<?php

declare(strict_types=1);

use App\Platform\Http\Controllers\PartsController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth:sanctum', 'throttle:executions'])->group(static function (): void {
    Route::get('/own-metrics', [PartsController::class, 'metrics'])->name('own-metrics');
});
