<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Console;

use App\Estate\Connectors\PracticeClusters;
use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Telemetry\Intake\ImportRunner;
use App\Telemetry\Models\Import;
use App\Telemetry\Sources\Format;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanTotals;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Tools\Demo\DemoAlerts;
use Fulcrion\Tools\Demo\DemoBackups;
use Fulcrion\Tools\Demo\DemoBaselines;
use Fulcrion\Tools\Demo\DemoBill;
use Fulcrion\Tools\Demo\DemoBudgets;
use Fulcrion\Tools\Demo\DemoCapacity;
use Fulcrion\Tools\Demo\DemoDeliveries;
use Fulcrion\Tools\Demo\DemoHistory;
use Fulcrion\Tools\Demo\DemoLimits;
use Fulcrion\Tools\Demo\DemoMeasurement;
use Fulcrion\Tools\Demo\DemoNodes;
use Fulcrion\Tools\Demo\DemoPlans;
use Fulcrion\Tools\Demo\DemoPrices;
use Fulcrion\Tools\Demo\DemoProbes;
use Fulcrion\Tools\Demo\DemoStorage;
use Fulcrion\Tools\Demo\JobHistory;
use Fulcrion\Tools\Demo\PracticeWorld;
use Fulcrion\Tools\Demo\Team;
use Illuminate\Console\Command;
use Illuminate\Support\Facades\DB;

final class DemoCommand extends Command
{
    protected $signature = 'demo:load {--scale=1.0 : share of the people\'s runs, for tests} {--rows=1.0 : share of the rows, for '
        .'tests} {--nights=28 : nights of parallel jobs}';

    protected $description = 'Loads the demo world: Brackenfold Growers, its clusters and 28 days of history';

    private const CLUSTERS = [
        'fernhill' => ['Fernhill', 'production', 1.0, 46, 12, 1.0],
        'wren' => ['Wren', 'rehearsal', 0.26, 47, 4, 0.1],
    ];

    public function handle(
        ImportRunner $runner,
        DemoPlans $demoPlans,
        JobHistory $jobs,
        DemoPrices $prices,
        DemoStorage $storage,
        DemoBill $bill,
        DemoBudgets $budgets,
        DemoLimits $limits,
        DemoNodes $demoNodes,
        DemoProbes $demoProbes,
        DemoAlerts $demoAlerts,
        DemoCapacity $demoCapacity,
        DemoBaselines $baselines,
        DemoDeliveries $deliveries,
        DemoBackups $backups,
    ): int {
        foreach (Team::PEOPLE as $email => [$name, $role]) {
            User::query()->firstOrCreate(
                ['email' => $email],
                ['name' => $name, 'password' => Team::PASSWORD, 'role' => $role, 'policy_person' => strtok($email, '@')],
            );
        }
        // Columns of chunks are kept unpacked while statements are measured.
        ini_set('memory_limit', '1500M');
        $measured = [];
        foreach (self::CLUSTERS as $slug => [$name, $role, $scale, $seed, $nodes, $rows]) {
            $cluster = Cluster::query()->firstOrCreate(
                ['slug' => $slug],
                ['name' => $name, 'role' => $role, 'connector' => 'practice', 'dialect' => Dialect::Ansi],
            );
            $cluster->update(['connector' => 'practice']);
            $warehouse = $this->warehouse($slug, $name, $nodes, $rows);
            if (Import::query()->where('cluster_id', $cluster->id)->where('state', 'done')->exists()) {
                continue;
            }
            // What Fernhill's statements read is known from running them; Wren's history is that of a smaller copy.
            $measured = $measured === [] ? $this->measure($warehouse, $name) : $measured;
            $history = new DemoHistory(Clock::seconds(), $seed, $scale * (float) $this->option('scale'), $slug === 'wren', $measured);
            $this->load($runner, $cluster, $history);
            if ($slug === 'fernhill') {
                $demoPlans->keep($cluster, $warehouse, $measured);
            }
        }

        $fernhill = Cluster::query()->where('slug', 'fernhill')->firstOrFail();
        if (! DB::table('job_series')->where('cluster_id', $fernhill->id)->exists()) {
            $jobs->load(
                $fernhill,
                Clock::microseconds(),
                fn (string $what) => $this->output->write(sprintf("\r  %-46s%-32s", 'nightly jobs of Fernhill: running', $what)),
                (int) $this->option('nights'),
            );
            $this->output->writeln(sprintf("\r  %-46s%-32s", 'nightly jobs of Fernhill', 'done'));
            $this->callSilently('jobs:judge');
        }

        $this->call('demo:access');
        // By the teams that are known now.
        $prices->write(Clock::seconds());
        $storage->write(Clock::seconds());
        $this->callSilently('usage:close');
        $bill->write(Clock::seconds());
        $budgets->write(Clock::seconds());
        $limits->write(Clock::seconds());
        $this->output->write(sprintf('  %-46s', 'nodes of the clusters: computing'));
        $demoNodes->write(Clock::seconds());
        $demoProbes->write(Clock::seconds());
        $demoCapacity->write(Clock::seconds());
        $deliveries->write(Clock::seconds());
        $backups->write(Clock::seconds());
        $baselines->write(Clock::seconds());
        $this->output->writeln(sprintf("\r  %-46s%-32s", 'nodes of the clusters', 'done'));

        // Only once: later it is the schedule's.
        if (! DB::table('findings')->where('source', 'storage')->exists()) {
            $this->output->write(sprintf('  %-46s', 'house rules: checking all tables'));
            $this->newLine();
            $this->call('storage:audit');
            $this->call('statements:audit');
            $this->callSilently('health:judge');
            $this->callSilently('settings:read');
            $this->callSilently('capacity:measure');
        }
        $demoAlerts->write(Clock::seconds());

        return self::SUCCESS;
    }

    private function warehouse(string $slug, string $name, int $nodes, float $share): Warehouse
    {
        $root = PracticeClusters::root($slug);
        if (is_dir($root)) {
            return Warehouse::open($root);
        }
        is_dir(dirname($root)) || mkdir(dirname($root), 0o700, true);
        $this->output->write(sprintf('  %-46s', "practice cluster {$name}"));
        $rows = (float) $this->option('rows');
        $warehouse = (new PracticeWorld(
            Clock::seconds() * 1_000_000,
            $rows * $share,
            fn (string $table) => $this->output->write(sprintf("\r  %-46s%-32s", "practice cluster {$name}: writing", $table)),
        ))->build($root, $name, $nodes, (int) round(1000 / $rows));
        $this->output->writeln(sprintf("\r  %-46s%-32s", "practice cluster {$name}", 'done'));

        return $warehouse;
    }

    /**
     * @return array<string, array{PlanTotals, int, Plan}>
     */
    private function measure(Warehouse $warehouse, string $name): array
    {
        $measured = (new DemoMeasurement($warehouse, Clock::seconds() * 1_000_000))->all(
            fn (int $done, int $of) => $this->output->write(
                sprintf("\r  %-46s%-32s", "statements of {$name}: measuring", "{$done} of {$of}"),
            ),
        );
        $this->output->writeln(sprintf("\r  %-46s%-32s", "statements of {$name}: measured", count($measured)));

        return $measured;
    }

    private function load(ImportRunner $runner, Cluster $cluster, DemoHistory $history): void
    {
        $directory = storage_path('app/demo');
        is_dir($directory) || mkdir($directory, 0o700, true);
        $path = "{$directory}/{$cluster->slug}-28-days.jsonl";
        $this->output->write(sprintf('  %-46s', "history of {$cluster->name}: writing"));
        $file = fopen($path, 'wb');
        assert($file !== false);
        foreach ($history->records() as $record) {
            fwrite($file, json_encode($record, JSON_UNESCAPED_SLASHES | JSON_THROW_ON_ERROR)."\n");
        }
        fclose($file);
        $import = new Import();
        $import
            ->forceFill([
                'cluster_id' => $cluster->id,
                'file_name' => basename($path),
                'path' => $path,
                'format' => Format::JsonLines,
                'state' => 'waiting',
                'accepted' => 0,
                'repeated' => 0,
                'rejected' => 0,
            ])
            ->save();
        $runner->run(
            $import,
            fn (Import $import) => $this->output->write(
                sprintf("\r  %-46s%s", "history of {$cluster->name}: reading", Quantity::count($import->accepted).' executions'),
            ),
        );
        $this->newLine();
        unlink($path);
    }
}
