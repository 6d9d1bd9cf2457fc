<?php

declare(strict_types=1);

use App\Tune\Http\CompareController;
use App\Tune\Http\ImportController;
use App\Tune\Http\RunningController;
use App\Tune\Http\StatementController;
use App\Tune\Http\StatementsController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])->prefix('tune')->group(static function (): void {
    Route::get('/statements', [StatementsController::class, 'index']);
    Route::get('/statements/standouts', [StatementsController::class, 'standouts']);
    Route::get('/statements/export/{format}', [StatementsController::class, 'export'])->whereIn('format', ['csv', 'json']);
    Route::get('/statements/report', [StatementsController::class, 'report']);
    Route::get('/statements/{fingerprint}', [StatementController::class, 'show'])->where('fingerprint', '[0-9a-f]{32}');
    Route::get('/statements/{fingerprint}/text', [StatementController::class, 'text'])->where('fingerprint', '[0-9a-f]{32}');
    Route::get('/statements/{fingerprint}/report', [StatementController::class, 'report'])->where('fingerprint', '[0-9a-f]{32}');
    Route::get('/compare', [CompareController::class, 'show']);
    Route::get('/compare/export/{format}', [CompareController::class, 'export'])->whereIn('format', ['csv', 'json']);
    Route::get('/running', [RunningController::class, 'show']);
    Route::get('/imports', [ImportController::class, 'index']);
    Route::get('/imports/{import}', [ImportController::class, 'show']);

    // Revealing literals is an act of its own and goes to the ledger.
    Route::middleware('role:engineer,steward')->group(static function (): void {
        Route::post('/statements/{fingerprint}/reveal', [StatementController::class, 'reveal'])->where('fingerprint', '[0-9a-f]{32}');
        Route::post('/statements/{fingerprint}/report', [StatementController::class, 'revealingReport'])->where('fingerprint', '[0-9a-f]{32}');
    });
    Route::middleware('role:engineer')->group(static function (): void {
        Route::post('/imports', [ImportController::class, 'store']);
        Route::get('/imports/{import}/columns', [ImportController::class, 'columns']);
        Route::post('/imports/{import}/columns', [ImportController::class, 'saveColumns']);
        Route::post('/imports/{import}/stop', [ImportController::class, 'stop']);
        Route::get('/imports/{import}/set-aside', [ImportController::class, 'setAside']);
    });
});
