<?php

declare(strict_types=1);

namespace App\Storage\Console;

use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Storage\Application\Maintenance;
use Illuminate\Console\Command;

final class MaintainCommand extends Command
{
    protected $signature = 'storage:maintain';

    protected $description = 'Runs the maintenance of tables that is due';

    public function handle(Maintenance $maintenance): int
    {
        /** @var list<Cluster> $clusters */
        $clusters = Cluster::query()->orderBy('id')->get()->all();
        foreach ($clusters as $cluster) {
            try {
                $maintenance->all($cluster);
            } catch (SourceError $error) {
                $this->warn("{$cluster->name}: {$error->getMessage()}");
            }
        }

        return self::SUCCESS;
    }
}
