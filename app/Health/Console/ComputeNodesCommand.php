<?php

declare(strict_types=1);

namespace App\Health\Console;

use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Health\Application\PracticeNodes;
use App\Metrics\Places\PlaceError;
use App\Platform\Support\Clock;
use Illuminate\Console\Command;

final class ComputeNodesCommand extends Command
{
    protected $signature = 'health:nodes';

    protected $description = 'Computes what nodes of practice clusters did, from the executions that were in flight';

    public function handle(PracticeNodes $nodes): int
    {
        $result = self::SUCCESS;
        foreach (Cluster::query()->where('connector', 'practice')->get() as $cluster) {
            try {
                $this->line("{$cluster->name}: {$nodes->compute($cluster, Clock::seconds())} values were kept.");
            } catch (SourceError|PlaceError $error) {
                $this->error("{$cluster->name}: {$error->getMessage()}");
                $result = self::FAILURE;
            }
        }

        return $result;
    }
}
