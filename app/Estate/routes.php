<?php

declare(strict_types=1);

use App\Estate\Http\ClusterController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tend')
    ->group(static function (): void {
        Route::get('/clusters', [ClusterController::class, 'index']);

        Route::middleware('role:engineer')->group(static function (): void {
            Route::get('/clusters/new', [ClusterController::class, 'create']);
            Route::post('/clusters', [ClusterController::class, 'store']);
            Route::get('/clusters/{cluster}', [ClusterController::class, 'edit']);
            Route::post('/clusters/{cluster}', [ClusterController::class, 'update']);
            Route::post('/clusters/{cluster}/check', [ClusterController::class, 'check']);
            Route::post('/clusters/{cluster}/tokens', [ClusterController::class, 'addToken']);
            Route::post('/clusters/{cluster}/tokens/{token}/revoke', [ClusterController::class, 'revokeToken'])->whereNumber('token');
            Route::post('/clusters/{cluster}/remove', [ClusterController::class, 'remove']);
        });
    });
