<?php

declare(strict_types=1);

namespace App\Cost\Console;

use App\Cost\Application\StoredBytes;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use Illuminate\Console\Command;

final class MeasureStorageCommand extends Command
{
    protected $signature = 'cost:measure-storage';

    protected $description = 'Asks each cluster how large its tables are today';

    public function handle(StoredBytes $stored): int
    {
        foreach (Cluster::query()->orderBy('id')->get() as $cluster) {
            try {
                $count = $stored->measure($cluster, Clock::seconds());
                if ($count > 0) {
                    $this->line("{$cluster->name}: {$count} tables.");
                }
            } catch (SourceError $error) {
                $this->warn("{$cluster->name}: {$error->getMessage()}");
            }
        }

        return self::SUCCESS;
    }
}
