<?php

declare(strict_types=1);

namespace App\Storage\Console;

use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Storage\Application\Refresher;
use Illuminate\Console\Command;

final class RefreshCommand extends Command
{
    protected $signature = 'storage:refresh';

    protected $description = 'Brings rollups up to their tables';

    public function handle(Refresher $refresher): int
    {
        /** @var list<Cluster> $clusters */
        $clusters = Cluster::query()->orderBy('id')->get()->all();
        foreach ($clusters as $cluster) {
            try {
                foreach ($refresher->all($cluster) as $words) {
                    $this->line("  {$cluster->name}: {$words}");
                }
            } catch (SourceError $error) {
                $this->warn("{$cluster->name}: {$error->getMessage()}");
            }
        }

        return self::SUCCESS;
    }
}
