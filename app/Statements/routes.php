<?php

declare(strict_types=1);

use App\Platform\Support\ExportFormat;
use App\Statements\Http\CompareController;
use App\Statements\Http\PlanController;
use App\Statements\Http\RunningController;
use App\Statements\Http\StatementController;
use App\Statements\Http\StatementsController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tune')
    ->group(static function (): void {
        Route::get('/statements', [StatementsController::class, 'index'])->name('statements.index');
        Route::get('/statements/anomalies', [StatementsController::class, 'anomalies'])->name('statements.anomalies');
        Route::get('/statements/export/{format}', [StatementsController::class, 'export'])
            ->name('statements.export')
            ->whereIn('format', ExportFormat::words());
        Route::get('/statements/report', [StatementsController::class, 'report'])->name('statements.report');
        Route::get('/statements/{fingerprint}', [StatementController::class, 'show'])->name('statement.show')->where('fingerprint',
            '[0-9a-f]{32}');
        Route::get('/statements/{fingerprint}/text', [StatementController::class, 'text'])->name('statement.text')->where('fingerprint',
            '[0-9a-f]{32}');
        Route::get('/statements/{fingerprint}/report', [StatementController::class,
            'report'])->name('statement.report')->where('fingerprint', '[0-9a-f]{32}');
        Route::get('/compare', [CompareController::class, 'show'])->name('compare.show');
        Route::get('/compare/export/{format}', [CompareController::class, 'export'])
            ->name('compare.export')
            ->whereIn('format', ExportFormat::words());
        Route::get('/plans', [PlanController::class, 'index'])->name('plan.index');
        Route::get('/plans/compare', [PlanController::class, 'compare'])->name('plan.compare');
        Route::get('/plans/{id}', [PlanController::class, 'show'])->name('plan.show')->whereNumber('id');
        Route::get('/plans/{id}/svg', [PlanController::class, 'svg'])->name('plan.svg')->whereNumber('id');
        Route::get('/plans/{id}/json', [PlanController::class, 'json'])->name('plan.json')->whereNumber('id');
        Route::get('/running', [RunningController::class, 'show'])->name('running.show');

        // Revealing literals is an act of its own and goes to the ledger.
        Route::middleware('role:engineer,steward')->group(static function (): void {
            Route::post('/statements/{fingerprint}/reveal', [StatementController::class,
                'reveal'])->name('statement.reveal')->where('fingerprint', '[0-9a-f]{32}');
            Route::post('/plans/{id}/reveal', [PlanController::class, 'reveal'])->name('plan.reveal')->whereNumber('id');
            Route::post('/statements/{fingerprint}/report', [StatementController::class,
                'revealingReport'])->name('statement.revealing-report')->where(
                    'fingerprint',
                    '[0-9a-f]{32}',
                );
        });

        Route::middleware('role:engineer')->group(static function (): void {
            Route::post('/plans', [PlanController::class, 'store'])->name('plan.store');
            Route::post('/statements/{fingerprint}/plan', [PlanController::class,
                'ofStatement'])->name('plan.of-statement')->where('fingerprint', '[0-9a-f]{32}');
        });
    });
