<?php

declare(strict_types=1);

use App\Jobs\Http\JobIntakeController;
use Illuminate\Support\Facades\Route;

Route::post('/jobs', JobIntakeController::class)->name('job-intake')->middleware(['auth:sanctum', 'throttle:executions']);
