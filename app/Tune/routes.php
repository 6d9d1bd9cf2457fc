<?php

declare(strict_types=1);

use App\Tune\Http\CatalogController;
use App\Tune\Http\CompareController;
use App\Tune\Http\EncodingController;
use App\Tune\Http\FilesController;
use App\Tune\Http\ImportController;
use App\Tune\Http\IndexController;
use App\Tune\Http\LayoutController;
use App\Tune\Http\PlanController;
use App\Tune\Http\PreparedController;
use App\Tune\Http\RewriteController;
use App\Tune\Http\RunningController;
use App\Tune\Http\StatementController;
use App\Tune\Http\StatementsController;
use App\Tune\Http\UpkeepController;
use App\Tune\Http\WorkbenchController;
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
    Route::get('/plans', [PlanController::class, 'index']);
    Route::get('/plans/compare', [PlanController::class, 'compare']);
    Route::get('/plans/{id}', [PlanController::class, 'show'])->whereNumber('id');
    Route::get('/plans/{id}/svg', [PlanController::class, 'svg'])->whereNumber('id');
    Route::get('/plans/{id}/json', [PlanController::class, 'json'])->whereNumber('id');
    Route::get('/catalog', [CatalogController::class, 'index']);
    Route::get('/catalog/{slug}/{schema}/{name}', [CatalogController::class, 'show']);
    Route::get('/layout', [LayoutController::class, 'index']);
    Route::get('/layout/rules', [LayoutController::class, 'rules']);
    Route::get('/layout/rules/{rule}', [LayoutController::class, 'rule'])->where('rule', '[a-z-]+');
    Route::get('/layout/files', [FilesController::class, 'index']);
    Route::get('/layout/files/{folder}', [FilesController::class, 'show'])->where('folder', '[a-z0-9._-]+');
    Route::get('/layout/upkeep', [UpkeepController::class, 'index']);
    Route::get('/layout/{slug}/{name}', [LayoutController::class, 'show'])->where('name', '.+\..+');
    Route::get('/encodings', [EncodingController::class, 'index']);
    Route::get('/encodings/{run}', [EncodingController::class, 'show'])->whereNumber('run');
    Route::get('/indexes', [IndexController::class, 'index']);
    Route::get('/prepared', [PreparedController::class, 'index']);
    Route::get('/running', [RunningController::class, 'show']);
    Route::get('/imports', [ImportController::class, 'index']);
    Route::get('/imports/{import}', [ImportController::class, 'show']);

    // Revealing literals is an act of its own and goes to the ledger.
    Route::middleware('role:engineer,steward')->group(static function (): void {
        Route::post('/statements/{fingerprint}/reveal', [StatementController::class, 'reveal'])->where('fingerprint', '[0-9a-f]{32}');
        Route::post('/statements/{fingerprint}/report', [StatementController::class, 'revealingReport'])->where('fingerprint', '[0-9a-f]{32}');
    });
    Route::middleware('role:engineer')->group(static function (): void {
        Route::get('/workbench', [WorkbenchController::class, 'show']);
        Route::post('/workbench/runs', [WorkbenchController::class, 'run']);
        Route::post('/workbench/runs/{key}/stop', [WorkbenchController::class, 'stop'])->whereUuid('key');
        Route::get('/workbench/runs/{key}/result/{format}', [WorkbenchController::class, 'download'])->whereUuid('key')->whereIn('format', ['csv', 'json', 'parquet']);
        Route::post('/workbench/inbox', [WorkbenchController::class, 'receive']);
        Route::get('/workbench/history', [WorkbenchController::class, 'history']);
        Route::get('/layout-advice/{slug}/{name}', [LayoutController::class, 'advice'])->where('name', '.+\..+');
        Route::post('/layout-audit/{slug}', [LayoutController::class, 'audit']);
        Route::post('/layout-statistics/{slug}', [LayoutController::class, 'statistics']);
        Route::post('/layout-rules/{slug}/{rule}', [LayoutController::class, 'saveRule'])->where('rule', '[a-z-]+');
        Route::post('/layout-findings/{finding}/propose', [LayoutController::class, 'proposeFinding'])->whereNumber('finding');
        Route::post('/layout-propose/{slug}/{name}', [LayoutController::class, 'propose'])->where('name', '.+\..+');
        Route::post('/layout-files', [FilesController::class, 'store']);
        Route::post('/layout-files/{folder}/forget', [FilesController::class, 'forget'])->where('folder', '[a-z0-9._-]+');
        Route::post('/layout-upkeep/{slug}/{name}', [UpkeepController::class, 'store'])->where('name', '.+\..+');
        Route::post('/upkeep/{plan}/run', [UpkeepController::class, 'run'])->whereNumber('plan');
        Route::post('/upkeep/{plan}/remove', [UpkeepController::class, 'remove'])->whereNumber('plan');
        Route::get('/rewrites', [RewriteController::class, 'index']);
        Route::post('/rewrites', [RewriteController::class, 'ask']);
        Route::get('/rewrites/{key}', [RewriteController::class, 'show'])->whereUuid('key');
        Route::get('/rewrites/{key}/without/{name}', [RewriteController::class, 'without'])->whereUuid('key')->where('name', '[a-z-]+');
        Route::get('/rewrites/{key}/instead/{id}', [RewriteController::class, 'instead'])->whereUuid('key')->where('id', '[a-z-]+');
        Route::post('/indexes/{slug}/propose', [IndexController::class, 'propose']);
        Route::post('/encodings', [EncodingController::class, 'start']);
        Route::post('/encodings/{run}/stop', [EncodingController::class, 'stop'])->whereNumber('run');
        Route::post('/encodings/{run}/propose', [EncodingController::class, 'propose'])->whereNumber('run');
        Route::post('/prepared/{slug}/refresh', [PreparedController::class, 'refresh']);
        Route::post('/prepared/{slug}/drop', [PreparedController::class, 'drop']);
        Route::post('/prepared/{slug}/rollups/{name}', [PreparedController::class, 'rollups'])->where('name', '.+\..+');
        Route::post('/prepared/{slug}/lookups/{name}', [PreparedController::class, 'lookup'])->where('name', '.+\..+');
        Route::post('/plans', [PlanController::class, 'store']);
        Route::post('/statements/{fingerprint}/plan', [PlanController::class, 'ofStatement'])->where('fingerprint', '[0-9a-f]{32}');
        Route::post('/imports', [ImportController::class, 'store']);
        Route::get('/imports/{import}/columns', [ImportController::class, 'columns']);
        Route::post('/imports/{import}/columns', [ImportController::class, 'saveColumns']);
        Route::post('/imports/{import}/stop', [ImportController::class, 'stop']);
        Route::get('/imports/{import}/set-aside', [ImportController::class, 'setAside']);
    });
});
