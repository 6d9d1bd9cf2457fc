<?php

declare(strict_types=1);

use App\Alerts\Http\AlertController;
use App\Alerts\Http\IncidentController;
use App\Alerts\Http\MarkController;
use App\Alerts\Http\SilenceController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('tend')
    ->group(static function (): void {
        Route::get('/alerts', [AlertController::class, 'index'])->name('alert.index');
        Route::get('/alerts/new', [AlertController::class, 'create'])->name('alert.create');
        Route::get('/alerts/{alert}', [AlertController::class, 'show'])->name('alert.show')->whereNumber('alert');
        Route::get('/incidents', [IncidentController::class, 'index'])->name('incident.index');
        Route::get('/incidents/{incident}', [IncidentController::class, 'show'])->name('incident.show')->whereNumber('incident');
        Route::get('/incidents/{incident}/file', [IncidentController::class, 'file'])->name('incident.file')->whereNumber('incident');
        Route::get('/silences', [SilenceController::class, 'index'])->name('silence.index');
        Route::get('/silences/calendar', [SilenceController::class, 'calendar'])->name('silence.calendar');
        Route::middleware('can:alert')->group(static function (): void {
            Route::post('/alerts', [AlertController::class, 'store'])->name('alert.store');
            Route::post('/alerts/{alert}', [AlertController::class, 'update'])->name('alert.update')->whereNumber('alert');
            Route::post('/alerts/{alert}/switch', [AlertController::class, 'switch'])->name('alert.switch')->whereNumber('alert');
            Route::post('/alerts/{alert}/remove', [AlertController::class, 'remove'])->name('alert.remove')->whereNumber('alert');
            Route::post('/marks', [MarkController::class, 'add'])->name('mark.add');
            Route::post('/marks/{mark}/remove', [MarkController::class, 'remove'])->name('mark.remove')->whereNumber('mark');
            Route::post('/incidents/{incident}/take', [IncidentController::class, 'take'])->name('incident.take')->whereNumber('incident');
            Route::post('/incidents/{incident}/hand', [IncidentController::class, 'hand'])->name('incident.hand')->whereNumber('incident');
            Route::post('/incidents/{incident}/note', [IncidentController::class, 'comment'])->name('incident.note')
                ->whereNumber('incident');
            Route::post('/incidents/{incident}/real', [IncidentController::class, 'real'])->name('incident.real')->whereNumber('incident');
            Route::post('/silences', [SilenceController::class, 'add'])->name('silence.add');
            Route::post('/silences/import', [SilenceController::class, 'import'])->name('silence.import');
            Route::post('/silences/{silence}/remove', [SilenceController::class, 'remove'])->name('silence.remove')
                ->whereNumber('silence');
        });
    });
