<?php

declare(strict_types=1);

use App\Platform\Support\ExportFormat;
use App\Usage\Http\BillController;
use App\Usage\Http\CostController;
use App\Usage\Http\ExploreController;
use App\Usage\Http\LimitController;
use App\Usage\Http\SavingsController;
use App\Usage\Http\UsageController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('meter')
    ->group(static function (): void {
        Route::get('/usage', [UsageController::class, 'index'])->name('usage.index');
        Route::get('/why', [UsageController::class, 'why'])->name('usage.why');
        Route::get('/explore', [ExploreController::class, 'show'])->name('usage.explore');
        Route::get('/explore/export/{format}', [ExploreController::class, 'export'])
            ->name('usage.explore-export')
            ->whereIn('format', [...ExportFormat::words(), 'parquet']);
        Route::post('/explore/keep', [ExploreController::class, 'keep'])->name('usage.keep')->middleware('can:keep-views');
        Route::post('/explore/{view}/forget', [ExploreController::class, 'forget'])->name('usage.forget')->whereNumber('view');
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
        Route::get('/prices', [CostController::class, 'prices'])->name('cost.prices');
        Route::middleware('can:price')->group(static function (): void {
            Route::post('/bills', [BillController::class, 'read'])->name('bill.read');
            Route::post('/bills/{bill}/match', [BillController::class, 'match'])->name('bill.match')->whereNumber('bill');
            Route::post('/bills/{bill}/remove', [BillController::class, 'remove'])->name('bill.remove')->whereNumber('bill');
            Route::get('/viewers', [LimitController::class, 'index'])->name('usage.limits');
            Route::post('/viewers/{user}', [LimitController::class, 'set'])->name('usage.limit');
            Route::post('/prices/{cluster}', [CostController::class, 'add'])->name('cost.add');
            Route::post('/prices/{cluster}/rule', [CostController::class, 'rule'])->name('cost.rule');
            Route::post('/prices/{cluster}/{price}/remove', [CostController::class, 'remove'])->name('cost.remove')->whereNumber('price');
        });
        Route::get('/usage/export/{format}', [UsageController::class, 'export'])
            ->name('usage.export')
            ->whereIn('format', ExportFormat::words());
    });
