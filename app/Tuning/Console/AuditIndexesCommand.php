<?php

declare(strict_types=1);

namespace App\Tuning\Console;

use App\Estate\Models\Cluster;
use App\Tuning\Application\IndexAudit;
use Illuminate\Console\Command;

final class AuditIndexesCommand extends Command
{
    protected $signature = 'indexes:audit {cluster? : only this one}';

    protected $description = 'Look for indexes of live servers that are there for nothing';

    public function handle(IndexAudit $audit): int
    {
        $only = $this->argument('cluster');
        foreach (Cluster::watched(is_string($only) ? $only : null) as $cluster) {
            $audit->of($cluster);
        }

        return self::SUCCESS;
    }
}
