<?php

declare(strict_types=1);

namespace App\Health\Console;

use App\Estate\Models\Cluster;
use App\Health\Probes\ProbeBook;
use App\Health\Probes\ProbeRunner;
use App\Platform\Support\Clock;
use Illuminate\Console\Command;

final class ProbeCommand extends Command
{
    protected $signature = 'health:probe';

    protected $description = 'Runs the probes that are due';

    public function handle(ProbeBook $probes, ProbeRunner $runner): int
    {
        foreach ($probes->all() as $probe) {
            $cluster = Cluster::query()->find($probe->clusterId);
            if ($cluster !== null && ! $cluster->paused && $probe->isDue($probes->last($probe), Clock::seconds())) {
                $runner->run($probe, $cluster, Clock::seconds());
                $this->line("The probe of {$cluster->name} ran.");
            }
        }

        return self::SUCCESS;
    }
}
