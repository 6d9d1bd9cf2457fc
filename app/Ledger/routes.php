<?php

declare(strict_types=1);

use App\Ledger\Http\ChangeController;
use App\Ledger\Http\FindingController;
use App\Ledger\Http\LedgerController;
use App\Ledger\Http\NotificationController;
use App\Ledger\Http\ProofController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('ledger')
    ->group(static function (): void {
        Route::get('/', [LedgerController::class, 'index']);
        Route::get('/export/{format}', [LedgerController::class, 'export'])->whereIn('format', ['csv', 'json']);
        Route::post('/verify', [LedgerController::class, 'verify']);
        foreach (
            ['findings' => FindingController::class, 'changes' => ChangeController::class,
                'proofs' => ProofController::class] as $name => $controller
        ) {
            Route::get("/{$name}", [$controller, 'index']);
            Route::get("/{$name}/export/{format}", [$controller, 'export'])->whereIn('format', ['csv', 'json']);
        }
        Route::get('/findings/{finding}', [FindingController::class, 'show'])->whereNumber('finding');
        Route::get('/changes/{change}', [ChangeController::class, 'show'])->whereNumber('change');
        Route::get('/proofs/{proof}', [ProofController::class, 'show'])->whereNumber('proof');
        Route::get('/proofs/{proof}/file', [ProofController::class, 'file'])->whereNumber('proof');
        Route::get('/outbox', [NotificationController::class, 'index']);
        Route::get('/outbox/{notification}', [NotificationController::class, 'show'])->whereNumber('notification');

        // Engineers decide on tables and statements, stewards on access: the controllers ask which it is.
        Route::middleware('role:engineer,steward')->group(static function (): void {
            foreach (['accept', 'waive', 'reopen'] as $act) {
                Route::post("/findings/{finding}/{$act}", [FindingController::class, $act])->whereNumber('finding');
            }
            foreach (['choose', 'rehearse', 'approve', 'apply', 'undo', 'stop'] as $act) {
                Route::post("/changes/{change}/{$act}", [ChangeController::class, $act])->whereNumber('change');
            }
        });
        // Where messages go is the owner's to say: they leave the house.
        Route::middleware('role:owner')->group(static function (): void {
            Route::post('/subscriptions', [NotificationController::class, 'store']);
            Route::post('/subscriptions/{subscription}/remove', [NotificationController::class, 'remove'])->whereNumber('subscription');
            Route::post('/outbox/send', [NotificationController::class, 'send']);
        });
    });
