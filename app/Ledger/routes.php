<?php

declare(strict_types=1);

use App\Ledger\Http\ChangeController;
use App\Ledger\Http\FindingController;
use App\Ledger\Http\LedgerController;
use App\Ledger\Http\NotificationController;
use App\Ledger\Http\ProofController;
use App\Platform\Support\ExportFormat;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('ledger')
    ->group(static function (): void {
        Route::get('/', [LedgerController::class, 'index'])->name('ledger.index');
        Route::get('/export/{format}', [LedgerController::class, 'export'])
            ->name('ledger.export')
            ->whereIn('format', ExportFormat::words());
        Route::post('/verify', [LedgerController::class, 'verify'])->name('ledger.verify');
        Route::get('/findings', [FindingController::class, 'index'])->name('finding.index');
        Route::get('/findings/export/{format}', [FindingController::class, 'export'])
            ->name('finding.export')
            ->whereIn('format', ExportFormat::words());
        Route::get('/changes', [ChangeController::class, 'index'])->name('change.index');
        Route::get('/changes/export/{format}', [ChangeController::class, 'export'])
            ->name('change.export')
            ->whereIn('format', ExportFormat::words());
        Route::get('/proofs', [ProofController::class, 'index'])->name('proof.index');
        Route::get('/proofs/export/{format}', [ProofController::class, 'export'])
            ->name('proof.export')
            ->whereIn('format', ExportFormat::words());
        Route::get('/findings/{finding}', [FindingController::class, 'show'])->name('finding.show')->whereNumber('finding');
        Route::get('/changes/{change}', [ChangeController::class, 'show'])->name('change.show')->whereNumber('change');
        Route::get('/proofs/{proof}', [ProofController::class, 'show'])->name('proof.show')->whereNumber('proof');
        Route::get('/proofs/{proof}/file', [ProofController::class, 'file'])->name('proof.file')->whereNumber('proof');
        Route::get('/outbox', [NotificationController::class, 'index'])->name('notification.index');
        Route::get('/outbox/{notification}', [NotificationController::class,
            'show'])->name('notification.show')->whereNumber('notification');
        Route::get('/outbox/{notification}/files/{attachment}', [NotificationController::class,
            'file'])->name('notification.file')->whereNumber(['notification', 'attachment']);

        // Engineers decide on tables and statements, stewards on access: the controllers ask which it is.
        Route::middleware('role:engineer,steward')->group(static function (): void {
            foreach (['accept', 'dismiss', 'reopen'] as $act) {
                Route::post("/findings/{finding}/{$act}", [FindingController::class, $act])->name("finding.{$act}")->whereNumber('finding');
            }
            foreach (['choose', 'rehearse', 'approve', 'apply', 'undo', 'stop'] as $act) {
                Route::post("/changes/{change}/{$act}", [ChangeController::class, $act])->name("change.{$act}")->whereNumber('change');
            }
        });
        // Where messages go is the owner's to say: they leave the house.
        Route::middleware('role:owner')->group(static function (): void {
            Route::post('/subscriptions', [NotificationController::class, 'store'])->name('notification.store');
            Route::post('/subscriptions/{subscription}/remove', [NotificationController::class,
                'remove'])->name('notification.remove')->whereNumber('subscription');
            Route::post('/outbox/send', [NotificationController::class, 'send'])->name('notification.send');
        });
    });
