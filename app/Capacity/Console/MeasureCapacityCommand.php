<?php

declare(strict_types=1);

namespace App\Capacity\Console;

use App\Capacity\Application\CapacityFindings;
use App\Capacity\Application\CapacityMeter;
use App\Capacity\Application\CapacityStore;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Metrics\Places\PlaceError;
use App\Platform\Support\Clock;
use Illuminate\Console\Command;

final class MeasureCapacityCommand extends Command
{
    protected $signature = 'capacity:measure';

    protected $description = 'Measures how full everything is, and says what will be full soon and who answered nobody';

    public function handle(CapacityMeter $meter, CapacityFindings $findings, CapacityStore $store): int
    {
        $result = self::SUCCESS;
        foreach (Cluster::query()->orderBy('id')->get() as $cluster) {
            try {
                $this->line("{$cluster->name}: {$meter->measure($cluster, Clock::seconds())} places were measured.");
            } catch (SourceError|PlaceError $error) {
                $this->error("{$cluster->name}: {$error->getMessage()}");
                $result = self::FAILURE;
            }
            $findings->report($cluster, Clock::seconds());
        }
        $store->prune(Clock::seconds());

        return $result;
    }
}
