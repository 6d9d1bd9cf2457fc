<?php

declare(strict_types=1);

namespace App\Tune\Providers;

use App\Ledger\Changes\Performers;
use App\Tune\Indexes\IndexPerformer;
use App\Tune\Parallel\WorkersPerformer;
use Illuminate\Support\ServiceProvider;

final class TuneProvider extends ServiceProvider
{
    public function register(): void
    {
        $this->app->tag([IndexPerformer::class, WorkersPerformer::class], Performers::TAG);
    }
}
