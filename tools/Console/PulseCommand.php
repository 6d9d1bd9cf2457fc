<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Console;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Telemetry\Store\ExecutionBatch;
use App\Telemetry\Store\Store;
use Fulcrion\Core\Limits\Sender;
use Fulcrion\Core\Plans\PlanTotals;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Core\Telemetry\ExecutionReader;
use Fulcrion\Core\Telemetry\Rejection;
use Fulcrion\Tools\Demo\DeliveryNotes;
use Fulcrion\Tools\Demo\Repertoire;
use Illuminate\Console\Command;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Keeps the demo world alive: what its dashboards ask every five minutes is really run on the practice cluster.
 */
final class PulseCommand extends Command
{
    protected $signature = 'demo:pulse {--runs=1 : how often to ask everything}';

    protected $description = 'Runs the dashboards of the demo world once on Fernhill and keeps the executions';

    public function handle(Clusters $clusters, Store $store): int
    {
        $cluster = Cluster::query()->where('slug', 'fernhill')->where('connector', 'practice')->first();
        if (! ($cluster instanceof Cluster)) {
            return self::SUCCESS;
        }
        $reader = new ExecutionReader(PHP_INT_MAX);
        $fingerprinter = new Fingerprinter($cluster->dialect);
        $batch = new ExecutionBatch();
        $now = Clock::microseconds();
        $random = new Randomizer(new Mt19937(Clock::seconds()));
        for ($run = 0; $run < (int) $this->option('runs'); $run++) {
            foreach (Repertoire::all() as $i => $statement) {
                if ($statement->everyMinutes !== 5) {
                    continue;
                }
                $sql = $statement->fill(intdiv($now, 1_000_000), $random);
                $sender = new Sender($statement->team, $statement->application, 'shared');
                $runner = $clusters->as(Actor::system(SystemActor::Demo, 'the pulse of the demo')->sending($sender))->runner($cluster);
                try {
                    $result = $runner?->run($sql, $statement->database)->result;
                } catch (SourceError $error) {
                    $this->warn($error->getMessage());

                    continue;
                }
                $totals = $result?->plan === null ? null : PlanTotals::of($result->plan);
                if ($totals === null || $result === null) {
                    continue;
                }
                // What the modelled cluster would have taken, without any luck added.
                $at = $now + $run * 1_000_000 + $i * 1000;
                $execution = $reader->line(
                    (string) json_encode([
                        'started_at' => gmdate('Y-m-d\TH:i:s', intdiv($at, 1_000_000)).sprintf('.%06dZ', $at % 1_000_000),
                        'duration_us' => $totals->durationUs,
                        'sql' => $sql,
                        'database' => $statement->database,
                        'user' => $statement->team,
                        'application' => $statement->application,
                        'client_host' => 'board-hub',
                        'status' => 'ok',
                        'rows_returned' => count($result->rows),
                        'rows_examined' => $totals->rowsExamined,
                        'bytes_scanned' => $totals->bytesScanned,
                        'bytes_spilled' => $totals->bytesSpilled,
                        'full_scan' => $totals->fullScan,
                        'queue' => 'shared',
                    ]),
                );
                if ($execution instanceof Rejection) {
                    $this->warn("{$execution->field} {$execution->reason}");
                } else {
                    $batch->add($execution, $fingerprinter->of($execution->sql));
                }
            }
        }
        if ($batch->size() > 0) {
            $store->write($cluster, $batch);
        }
        $this->desk($clusters);

        return self::SUCCESS;
    }

    /** What the purchasing desk asks of its table on our own server; the collector sees it there like any statement. */
    private function desk(Clusters $clusters): void
    {
        $own = Cluster::query()->where('is_own', true)->first();
        $source =
            $own instanceof Cluster && in_array('brackenfold', explode(',', (string) config('fulcrion.keeper.schemas')), true)
                ? $clusters->as(Actor::system(SystemActor::Demo, 'the pulse of the demo'))->indexes($own)
                : null;
        if ($source === null) {
            return;
        }
        try {
            $source->apply(DeliveryNotes::TABLE);
            $source->apply(DeliveryNotes::ROWS);
            for ($i = 0; $i < 12; $i++) {
                foreach (DeliveryNotes::asked(intdiv(Clock::seconds(), 300) + $i) as $sql) {
                    $source->ask($sql);
                }
            }
        } catch (SourceError $error) {
            $this->warn($error->getMessage());
        }
    }
}
