<?php

declare(strict_types=1);

use App\Alerts\Http\DeployController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth:sanctum', 'throttle:executions'])->group(static function (): void {
    Route::post('/deploys', DeployController::class)->name('deploys');
});
