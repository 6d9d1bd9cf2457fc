<?php

declare(strict_types=1);

use App\Cost\Http\BillController;
use App\Cost\Http\BudgetController;
use App\Cost\Http\CostController;
use App\Cost\Http\QuantityController;
use App\Cost\Http\SavingsController;
use App\Cost\Http\StatementOfAccountController;
use App\Cost\Http\TeamController;
use App\Platform\Support\ExportFormat;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('meter')
    ->group(static function (): void {
        Route::get('/team', [TeamController::class, 'show'])->name('team.show');
        Route::get('/team/account.{document}', [TeamController::class, 'file'])->name('team.account')
            ->whereIn('document', ['html', 'pdf']);
        Route::get('/cost', [CostController::class, 'index'])->name('cost.index');
        Route::get('/cost/export/{format}', [CostController::class, 'export'])
            ->name('cost.export')
            ->whereIn('format', ExportFormat::words());
        Route::get('/cost/focus.{format}', [BillController::class, 'focus'])->name('cost.focus')->whereIn('format', ['csv', 'parquet']);
        Route::get('/savings', [SavingsController::class, 'index'])->name('cost.savings');
        Route::get('/savings/export/{format}', [SavingsController::class, 'export'])
            ->name('cost.savings-export')
            ->whereIn('format', ExportFormat::words());
        Route::get('/bills', [BillController::class, 'index'])->name('bill.index');
        Route::get('/bills/{bill}', [BillController::class, 'show'])->name('bill.show')->whereNumber('bill');
        Route::get('/bills/{bill}/export/{format}', [BillController::class, 'export'])
            ->name('bill.export')
            ->whereNumber('bill')
            ->whereIn('format', ExportFormat::words());
        Route::get('/budgets', [BudgetController::class, 'index'])->name('budget.index');
        Route::get('/prices', [CostController::class, 'prices'])->name('cost.prices');
        Route::middleware('can:price')->group(static function (): void {
            Route::post('/budgets', [BudgetController::class, 'set'])->name('budget.set');
            Route::post('/bills', [BillController::class, 'read'])->name('bill.read');
            Route::post('/bills/{bill}/match', [BillController::class, 'match'])->name('bill.match')->whereNumber('bill');
            Route::post('/bills/{bill}/remove', [BillController::class, 'remove'])->name('bill.remove')->whereNumber('bill');
            Route::get('/accounts', [StatementOfAccountController::class, 'index'])->name('account.index');
            Route::post('/accounts', [StatementOfAccountController::class, 'store'])->name('account.store');
            Route::get('/accounts/{schedule}/preview', [StatementOfAccountController::class, 'preview'])->name('account.preview')
                ->whereNumber('schedule');
            foreach (['confirm', 'send', 'remove'] as $act) {
                Route::post("/accounts/{schedule}/{$act}", [StatementOfAccountController::class, $act])->name("account.{$act}")
                    ->whereNumber('schedule');
            }
            Route::get('/accounts/{account}/file.{document}', [StatementOfAccountController::class, 'file'])->name('account.file')
                ->whereNumber('account')
                ->whereIn('document', ['html', 'pdf']);
            Route::post('/prices/{cluster}', [CostController::class, 'add'])->name('cost.add');
            Route::post('/prices/{cluster}/rule', [CostController::class, 'rule'])->name('cost.rule');
            Route::post('/prices/{cluster}/quantities', [QuantityController::class, 'add'])->name('cost.quantity');
            Route::post('/prices/{cluster}/quantities/{quantity}/remove', [QuantityController::class, 'remove'])
                ->name('cost.remove-quantity')
                ->whereNumber('quantity');
            Route::post('/prices/{cluster}/reservations', [QuantityController::class, 'reserve'])->name('cost.reserve');
            Route::post('/prices/{cluster}/reservations/{reservation}/remove', [QuantityController::class, 'release'])
                ->name('cost.release')
                ->whereNumber('reservation');
            Route::post('/prices/{cluster}/{price}/remove', [CostController::class, 'remove'])->name('cost.remove')->whereNumber('price');
        });
    });
