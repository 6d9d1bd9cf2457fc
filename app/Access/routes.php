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
        Route::get('/', [AccessController::class, 'index'])->name('access.index');
        Route::get('/explain', [AccessController::class, 'explain'])->name('access.explain');
        Route::get('/matrix', [AccessController::class, 'matrix'])->name('access.matrix');
        Route::get('/matrix/export', [AccessController::class, 'export'])->name('access.export');
        Route::get('/policy', [PolicyController::class, 'index'])->name('policy.index');
        Route::get('/policy/export/{file}', [PolicyController::class, 'export'])->name('policy.export')->whereIn('file', ['yaml', 'json',
            'schema']);
        Route::get('/policy/{kind}', [PolicyController::class, 'kind'])->name('policy.kind')->where('kind', '[a-z]+');
        Route::get('/products', [ProductController::class, 'index'])->name('product.index');
        Route::get('/products/{name}', [ProductController::class, 'show'])->name('product.show');
        // Keys are delegated one by one; the controller asks the vocabulary.
        Route::post('/labels/assign', [LabelController::class, 'assign'])->name('label.assign');
        Route::get('/requests', [RequestController::class, 'index'])->name('request.index');
        Route::post('/requests', [RequestController::class, 'store'])->name('request.store');
        // Who may decide is the owner of what is asked for, whatever their role here; the controller asks the policy.
        Route::post('/requests/{ask}/decide', [RequestController::class, 'decide'])->name('request.decide')->whereNumber('ask');
        Route::get('/decisions', [DecisionController::class, 'index'])->name('decision.index');
        Route::get('/decisions/export', [DecisionController::class, 'export'])->name('decision.export');
        Route::get('/decisions/{decision}', [DecisionController::class, 'show'])->name('decision.show')->whereNumber('decision');
        Route::get('/versions', [VersionController::class, 'index'])->name('version.index');
        Route::get('/versions/compare', [VersionController::class, 'compare'])->name('version.compare');

        Route::middleware('role:steward')->group(static function (): void {
            Route::post('/decisions/{decision}/reveal', [DecisionController::class,
                'reveal'])->name('decision.reveal')->whereNumber('decision');
            Route::get('/policy/{kind}/item', [PolicyController::class, 'item'])->name('policy.item')->where('kind', '[a-z]+');
            Route::get('/mask-preview/{name}', [PolicyController::class, 'preview'])->name('policy.preview');
            Route::post('/policy/{kind}/item', [PolicyController::class, 'save'])->name('policy.save')->where('kind', '[a-z]+');
            Route::post('/policy/{kind}/remove', [PolicyController::class, 'remove'])->name('policy.remove')->where('kind', '[a-z]+');
            Route::post('/policy-import', [PolicyController::class, 'import'])->name('policy.import');
            Route::post('/policy-check', [PolicyController::class, 'check'])->name('policy.check');
            Route::get('/labels', [LabelController::class, 'index'])->name('label.index');
            Route::post('/labels/fix', [LabelController::class, 'fix'])->name('label.fix');
            Route::post('/labels/detected', [LabelController::class, 'detected'])->name('label.detected');
            Route::post('/labels/detect', [LabelController::class, 'detect'])->name('label.detect');
            Route::post('/labels/rename', [LabelController::class, 'rename'])->name('label.rename');
            Route::get('/try', [TryController::class, 'show'])->name('try.show');
            Route::post('/try/add', [TryController::class, 'add'])->name('try.add');
            Route::get('/draft', [DraftController::class, 'show'])->name('draft.show');
            Route::get('/draft/radius', [DraftController::class, 'radius'])->name('draft.radius');
            Route::get('/draft/replay', [DraftController::class, 'replay'])->name('draft.replay');
            Route::post('/draft/discard', [DraftController::class, 'discard'])->name('draft.discard');
            Route::post('/draft/publish', [DraftController::class, 'publish'])->name('draft.publish');
            Route::post('/versions/{number}/restore', [VersionController::class,
                'restore'])->name('version.restore')->whereNumber('number');
            Route::get('/review', [ReviewController::class, 'index'])->name('review.index');
            Route::post('/review/run', [ReviewController::class, 'run'])->name('review.run');
            Route::post('/review/fix', [ReviewController::class, 'fix'])->name('review.fix');
            Route::get('/campaigns', [CampaignController::class, 'index'])->name('campaign.index');
            Route::post('/campaigns', [CampaignController::class, 'store'])->name('campaign.store');
            Route::get('/campaigns/{campaign}', [CampaignController::class, 'show'])->name('campaign.show')->whereNumber('campaign');
            Route::get('/campaigns/{campaign}/export', [CampaignController::class,
                'export'])->name('campaign.export')->whereNumber('campaign');
            Route::post('/campaigns/{campaign}/decide', [CampaignController::class,
                'decide'])->name('campaign.decide')->whereNumber('campaign');
            Route::post('/campaigns/{campaign}/end', [CampaignController::class, 'end'])->name('campaign.end')->whereNumber('campaign');
            Route::get('/provisioning', [ProvisioningController::class, 'index'])->name('provisioning.index');
            Route::post('/provisioning/{slug}/propose', [ProvisioningController::class, 'propose'])->name('provisioning.propose');
            Route::post('/provisioning/{slug}/read', [ProvisioningController::class, 'read'])->name('provisioning.read');
        });
    });
