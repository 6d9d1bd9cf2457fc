<?php

declare(strict_types=1);

namespace App\Diagnostics\Console;

use App\Diagnostics\Application\DefinitionChanges;
use App\Diagnostics\Application\LiveDiagnosis;
use App\Diagnostics\Application\PatternCounts;
use App\Diagnostics\Application\PlanTakes;
use App\Estate\Models\Cluster;
use Illuminate\Console\Command;

final class CheckCommand extends Command
{
    protected $signature = 'diagnostics:check {cluster? : only this one} {--prune : also forget what was kept long enough}';

    protected $description = 'Look for trouble in what the statements of live servers do';

    public function handle(LiveDiagnosis $diagnosis, DefinitionChanges $definitions, PatternCounts $patterns, PlanTakes $plans): int
    {
        $only = $this->argument('cluster');
        foreach (Cluster::watched(is_string($only) ? $only : null) as $cluster) {
            $diagnosis->of($cluster);
        }
        if ($this->option('prune')) {
            $definitions->prune();
            $patterns->prune();
            $plans->prune();
        }

        return self::SUCCESS;
    }
}
