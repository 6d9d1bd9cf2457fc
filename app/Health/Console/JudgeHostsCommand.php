<?php

declare(strict_types=1);

namespace App\Health\Console;

use App\Estate\Models\Cluster;
use App\Health\Application\HostFindings;
use App\Health\Probes\ProbeFindings;
use App\Metrics\Places\PlaceError;
use App\Platform\Support\Clock;
use Illuminate\Console\Command;

final class JudgeHostsCommand extends Command
{
    protected $signature = 'health:judge';

    protected $description = 'Looks for hosts that differ from their neighbours, times in which nobody read them, and what probes tell';

    public function handle(HostFindings $findings, ProbeFindings $probes): int
    {
        $result = self::SUCCESS;
        foreach (Cluster::query()->get() as $cluster) {
            try {
                $findings->report($cluster, Clock::seconds());
                $probes->report($cluster, Clock::seconds());
            } catch (PlaceError $error) {
                // What cannot be read says nothing of the hosts.
                $this->error($error->getMessage());
                $result = self::FAILURE;
            }
        }

        return $result;
    }
}
