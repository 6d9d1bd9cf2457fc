<?php

declare(strict_types=1);

use App\Ledger\Http\LedgerController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])->prefix('ledger')->group(static function (): void {
    Route::get('/', [LedgerController::class, 'index']);
    Route::get('/export/{format}', [LedgerController::class, 'export'])->whereIn('format', ['csv', 'json']);
    Route::post('/verify', [LedgerController::class, 'verify']);
});
