<?php

declare(strict_types=1);

use App\Telemetry\Http\ExecutionsController;
use Illuminate\Support\Facades\Route;

Route::post('/executions', ExecutionsController::class)->name('executions')->middleware(['auth:sanctum', 'throttle:executions']);
