<?php

declare(strict_types=1);

namespace App\Sessions\Console;

use App\Estate\Models\Cluster;
use App\Sessions\Application\Deadlocks;
use App\Sessions\Application\SessionWatch;
use Illuminate\Console\Command;

final class WatchCommand extends Command
{
    protected $signature = 'sessions:watch {cluster? : only this one}';

    protected $description = 'Look who is held up on live servers, and take down their deadlocks';

    public function handle(SessionWatch $watch, Deadlocks $deadlocks): int
    {
        $only = $this->argument('cluster');
        foreach (Cluster::watched(is_string($only) ? $only : null) as $cluster) {
            $watch->look($cluster);
        }
        $deadlocks->prune();

        return self::SUCCESS;
    }
}
