<?php

declare(strict_types=1);

use App\Metrics\Http\HostReadingController;
use App\Metrics\Http\OtlpController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth:sanctum', 'throttle:executions'])->group(static function (): void {
    Route::post('/v1/metrics', OtlpController::class)->name('otlp-metrics');
    Route::post('/hosts', HostReadingController::class)->name('host-readings');
});
