<?php

declare(strict_types=1);

namespace App\Storage\Application;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\FindingState;
use App\Ledger\Ledger;
use App\Ledger\Models\Finding;
use Illuminate\Support\Facades\Process;

/**
 * Collects the statistics that rules miss, and only those: the newest need first, several tables at once.
 */
final readonly class StatisticsRound
{
    private const RULES = ['missing-statistics', 'stale-statistics'];

    private const SECONDS = 3600;

    public function __construct(private LayoutAudit $audit, private Ledger $ledger)
    {
    }

    /**
     * @return list<string> tables that need statistics, the newest need first
     */
    public function needed(Cluster $cluster): array
    {
        $query = Finding::query()
            ->where('cluster_id', $cluster->id)
            ->whereIn('rule', self::RULES)
            ->whereIn('state', FindingState::waiting());
        $query->orderByDesc('changed_us')->orderByDesc('id');

        return array_values(array_unique($query->pluck('object')->all()));
    }

    /**
     * @param  int  $parallel processes at once
     * @return array{collected: int, failed: list<string>}
     */
    public function run(Cluster $cluster, int $parallel, string $by): array
    {
        $tables = $this->needed($cluster);
        $failed = [];
        foreach (array_chunk($tables, max(1, $parallel)) as $batch) {
            $running = [];
            foreach ($batch as $table) {
                $running[$table] = Process::timeout(self::SECONDS)->start([
                    PHP_BINARY,
                    '-d',
                    'memory_limit=512M',
                    base_path('artisan'),
                    'storage:statistics',
                    $cluster->slug,
                    $table,
                ]);
            }
            foreach ($running as $table => $process) {
                if (! $process->wait()->successful()) {
                    $failed[] = $table;
                }
            }
        }
        $this->ledger->record(null, 'collected statistics', $cluster->name, [
            'for' => $by,
            'tables' => implode(', ', $tables),
            'at once' => $parallel,
            'failed' => implode(', ', $failed),
        ]);
        $this->audit->run($cluster, $tables);

        return ['collected' => count($tables) - count($failed), 'failed' => $failed];
    }
}
