<?php

declare(strict_types=1);

use App\Limits\Http\AccountLimitController;
use App\Limits\Http\AllowanceController;
use App\Limits\Http\LimitBookController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('meter/limits')
    ->group(static function (): void {
        Route::get('/', [LimitBookController::class, 'index'])->name('limit.index');
        Route::get('/accounts', [AccountLimitController::class, 'index'])->name('limit.accounts');
        Route::get('/{limit}', [LimitBookController::class, 'show'])->name('limit.show')->whereNumber('limit');
        Route::middleware('can:limit')->group(static function (): void {
            Route::post('/', [LimitBookController::class, 'store'])->name('limit.store');
            Route::post('/accounts/{slug}', [AccountLimitController::class, 'propose'])->name('limit.account');
            foreach (['change', 'switch', 'remove'] as $act) {
                Route::post("/{limit}/{$act}", [LimitBookController::class, $act])->name("limit.{$act}")->whereNumber('limit');
            }
        });
        Route::middleware('can:lift')->group(static function (): void {
            Route::post('/{limit}/lift', [LimitBookController::class, 'lift'])->name('limit.lift')->whereNumber('limit');
            Route::post('/{limit}/end-lift', [LimitBookController::class, 'endLift'])->name('limit.end-lift')->whereNumber('limit');
        });
    });
Route::middleware(['auth', 'role:any'])
    ->prefix('meter/allowances')
    ->group(static function (): void {
        Route::get('/', [AllowanceController::class, 'index'])->name('allowance.index');
        Route::middleware('can:price')->group(static function (): void {
            Route::post('/', [AllowanceController::class, 'add'])->name('allowance.add');
            Route::post('/{allowance}/remove', [AllowanceController::class, 'remove'])->name('allowance.remove')->whereNumber('allowance');
        });
    });
