<?php

declare(strict_types=1);

use App\Loading\Http\DeliveryController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth:sanctum', 'throttle:executions'])->group(static function (): void {
    Route::post('/deliveries/{name}', DeliveryController::class)->name('deliveries');
});
