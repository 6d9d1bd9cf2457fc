<?php

declare(strict_types=1);

use App\Usage\Http\UsageApiController;
use Illuminate\Support\Facades\Route;

Route::get('/usage', UsageApiController::class)->name('usage-api')->middleware(['auth:sanctum', 'throttle:executions']);
