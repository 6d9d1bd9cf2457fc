<?php

declare(strict_types=1);

use App\Access\Http\AccessController;
use App\Access\Http\CampaignController;
use App\Access\Http\DecisionController;
use App\Access\Http\DraftController;
use App\Access\Http\LabelController;
use App\Access\Http\PolicyController;
use App\Access\Http\ProductController;
use App\Access\Http\ProvisioningController;
use App\Access\Http\RequestController;
use App\Access\Http\ReviewController;
use App\Access\Http\TryController;
use App\Access\Http\VersionController;
use Illuminate\Support\Facades\Route;

Route::middleware(['auth', 'role:any'])
    ->prefix('guard')
    ->group(static function (): void {
        Route::get('/', [AccessController::class, 'index']);
        Route::get('/explain', [AccessController::class, 'explain']);
        Route::get('/matrix', [AccessController::class, 'matrix']);
        Route::get('/matrix/export', [AccessController::class, 'export']);
        Route::get('/policy', [PolicyController::class, 'index']);
        Route::get('/policy/export/{file}', [PolicyController::class, 'export'])->whereIn('file', ['yaml', 'json', 'schema']);
        Route::get('/policy/{kind}', [PolicyController::class, 'kind'])->where('kind', '[a-z]+');
        Route::get('/products', [ProductController::class, 'index']);
        Route::get('/products/{name}', [ProductController::class, 'show']);
        // Keys are delegated one by one; the controller asks the vocabulary.
        Route::post('/labels/assign', [LabelController::class, 'assign']);
        Route::get('/requests', [RequestController::class, 'index']);
        Route::post('/requests', [RequestController::class, 'store']);
        // Who may decide is the owner of what is asked for, whatever their role here; the controller asks the policy.
        Route::post('/requests/{ask}/decide', [RequestController::class, 'decide'])->whereNumber('ask');
        Route::get('/decisions', [DecisionController::class, 'index']);
        Route::get('/decisions/export', [DecisionController::class, 'export']);
        Route::get('/decisions/{decision}', [DecisionController::class, 'show'])->whereNumber('decision');
        Route::get('/versions', [VersionController::class, 'index']);
        Route::get('/versions/compare', [VersionController::class, 'compare']);

        Route::middleware('role:steward')->group(static function (): void {
            Route::post('/decisions/{decision}/reveal', [DecisionController::class, 'reveal'])->whereNumber('decision');
            Route::get('/policy/{kind}/item', [PolicyController::class, 'item'])->where('kind', '[a-z]+');
            Route::get('/mask-preview/{name}', [PolicyController::class, 'preview']);
            Route::post('/policy/{kind}/item', [PolicyController::class, 'save'])->where('kind', '[a-z]+');
            Route::post('/policy/{kind}/remove', [PolicyController::class, 'remove'])->where('kind', '[a-z]+');
            Route::post('/policy-import', [PolicyController::class, 'import']);
            Route::post('/policy-check', [PolicyController::class, 'check']);
            Route::get('/labels', [LabelController::class, 'index']);
            Route::post('/labels/mend', [LabelController::class, 'mend']);
            Route::post('/labels/detected', [LabelController::class, 'detected']);
            Route::post('/labels/detect', [LabelController::class, 'detect']);
            Route::post('/labels/rename', [LabelController::class, 'rename']);
            Route::get('/try', [TryController::class, 'show']);
            Route::post('/try/add', [TryController::class, 'add']);
            Route::get('/draft', [DraftController::class, 'show']);
            Route::get('/draft/radius', [DraftController::class, 'radius']);
            Route::get('/draft/replay', [DraftController::class, 'replay']);
            Route::post('/draft/discard', [DraftController::class, 'discard']);
            Route::post('/draft/publish', [DraftController::class, 'publish']);
            Route::post('/versions/{number}/restore', [VersionController::class, 'restore'])->whereNumber('number');
            Route::get('/review', [ReviewController::class, 'index']);
            Route::post('/review/run', [ReviewController::class, 'run']);
            Route::post('/review/mend', [ReviewController::class, 'mend']);
            Route::get('/campaigns', [CampaignController::class, 'index']);
            Route::post('/campaigns', [CampaignController::class, 'store']);
            Route::get('/campaigns/{campaign}', [CampaignController::class, 'show'])->whereNumber('campaign');
            Route::get('/campaigns/{campaign}/export', [CampaignController::class, 'export'])->whereNumber('campaign');
            Route::post('/campaigns/{campaign}/decide', [CampaignController::class, 'decide'])->whereNumber('campaign');
            Route::post('/campaigns/{campaign}/end', [CampaignController::class, 'end'])->whereNumber('campaign');
            Route::get('/provisioning', [ProvisioningController::class, 'index']);
            Route::post('/provisioning/{slug}/propose', [ProvisioningController::class, 'propose']);
            Route::post('/provisioning/{slug}/read', [ProvisioningController::class, 'read']);
        });
    });
