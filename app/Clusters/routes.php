<?php

declare(strict_types=1);

use App\Clusters\Http\ClusterController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tend')
    ->group(static function (): void {
        Route::get('/clusters', [ClusterController::class, 'index'])->name('cluster.index');

        Route::middleware('role:engineer')->group(static function (): void {
            Route::get('/clusters/new', [ClusterController::class, 'create'])->name('cluster.create');
            Route::post('/clusters', [ClusterController::class, 'store'])->name('cluster.store');
            Route::get('/clusters/{cluster}', [ClusterController::class, 'edit'])->name('cluster.edit');
            Route::post('/clusters/{cluster}', [ClusterController::class, 'update'])->name('cluster.update');
            Route::post('/clusters/{cluster}/check', [ClusterController::class, 'check'])->name('cluster.check');
            Route::post('/clusters/{cluster}/tokens', [ClusterController::class, 'addToken'])->name('cluster.add-token');
            Route::post('/clusters/{cluster}/tokens/{token}/revoke', [ClusterController::class,
                'revokeToken'])->name('cluster.revoke-token')->whereNumber('token');
            Route::post('/clusters/{cluster}/remove', [ClusterController::class, 'remove'])->name('cluster.remove');
        });
    });
