<?php

declare(strict_types=1);

namespace App\Metrics\Console;

use App\Estate\Models\Cluster;
use App\Metrics\Intake\MetricIntake;
use App\Metrics\Intake\SourceKind;
use App\Metrics\Places\PlaceError;
use App\Metrics\Store\ProcessStore;
use App\Metrics\Store\ThisHost;
use App\Platform\Support\Clock;
use Fulcrion\Core\Metrics\BusyProcess;
use Fulcrion\Core\Metrics\HostProcess;
use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Metrics\Wire\Received;
use Fulcrion\Core\Metrics\Wire\Reception;
use Illuminate\Console\Command;
use Illuminate\Contracts\Cache\Repository;

final class ReadHostCommand extends Command
{
    private const BEFORE = 'host-processes';

    private const BEFORE_SECONDS = 120;

    private const PROCESSES = 10;

    protected $signature = 'metrics:read-host';

    protected $description = 'Reads what the host this application runs on is doing';

    public function handle(ThisHost $host, MetricIntake $intake, ProcessStore $processes, Repository $cache): int
    {
        $own = Cluster::query()->where('is_own', true)->first();
        if ($own !== null) {
            $atMs = intdiv(Clock::microseconds(), 1_000);
            $values = array_map(static fn (Metric $one): Received => new Received($host->name(), $atMs, $one), $host->read());
            try {
                $result = $intake->take($own, new Reception($values), SourceKind::Own, $host->name());
                $this->keepProcesses($own->id, $host, $processes, $cache, $atMs);
                $this->line("{$result->taken} values were taken.");
            } catch (PlaceError $error) {
                $this->error($error->getMessage());

                return self::FAILURE;
            }
        }

        return self::SUCCESS;
    }

    /** Since the reading before, which was by another process of ours. */
    private function keepProcesses(int $clusterId, ThisHost $host, ProcessStore $store, Repository $cache, int $atMs): void
    {
        $now = $host->processes();
        $before = $cache->get(self::BEFORE);
        if (is_array($before) && is_int($before['ms'] ?? null) && is_array($before['cpu'] ?? null) && $atMs > $before['ms']) {
            $store->keep($clusterId, $host->name(), intdiv($atMs, 1_000),
                BusyProcess::most($now, $before['cpu'], ($atMs - $before['ms']) / 1_000, self::PROCESSES));
        }
        $cache->put(self::BEFORE, ['ms' => $atMs, 'cpu' => array_map(static fn (HostProcess $one): float => $one->cpuSeconds, $now)],
            self::BEFORE_SECONDS);
    }
}
