<?php

declare(strict_types=1);

use App\Platform\Http\Controllers\AccountController;
use App\Platform\Http\Controllers\PartsController;
use App\Platform\Http\Controllers\PeopleController;
use App\Platform\Http\Controllers\SignInController;
use Illuminate\Support\Facades\Route;

Route::get('/up', [PartsController::class, 'up'])->withoutMiddleware('web');

Route::middleware('guest')->group(static function (): void {
    Route::get('/sign-in', [SignInController::class, 'form'])->name('login');
    Route::post('/sign-in', [SignInController::class, 'enter'])->name('sign-in.enter')->middleware('throttle:sign-in');
});

Route::middleware(['auth', 'role:any'])->group(static function (): void {
    Route::post('/sign-out', [SignInController::class, 'leave'])->name('sign-in.leave');
    Route::get('/tend/own', [PartsController::class, 'show'])->name('parts.show');
    Route::get('/account', [AccountController::class, 'edit'])->name('account.edit');
    Route::post('/account', [AccountController::class, 'update'])->name('account.update');
    Route::post('/account/password', [AccountController::class, 'password'])->name('account.password');
});

Route::middleware(['auth', 'role:owner'])
    ->prefix('people')
    ->group(static function (): void {
        Route::get('/', [PeopleController::class, 'index'])->name('people.index');
        Route::post('/', [PeopleController::class, 'store'])->name('people.store');
        Route::post('/{user}', [PeopleController::class, 'update'])->name('people.update')->whereNumber('user');
    });
