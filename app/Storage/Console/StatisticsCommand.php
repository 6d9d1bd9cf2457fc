<?php

declare(strict_types=1);

namespace App\Storage\Console;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Models\Finding;
use Illuminate\Console\Command;

final class StatisticsCommand extends Command
{
    protected $signature = 'storage:statistics {cluster : slug} {table : schema.table}';

    protected $description = 'Collects the statistics of a table that rules miss';

    public function handle(Clusters $clusters): int
    {
        $cluster = Cluster::query()->where('slug', $this->argument('cluster'))->firstOrFail();
        assert($cluster instanceof Cluster);
        /** @var list<Finding> $findings */
        $findings = Finding::query()
            ->where('cluster_id', $cluster->id)
            ->where('object', $this->argument('table'))
            ->where('remedy', 'statistics')
            ->get()
            ->all();
        try {
            foreach ($findings as $finding) {
                foreach ($finding->sealed_statements['steps'] ?? [] as $sql) {
                    $this->line(
                        (string) $clusters
                            ->as(Actor::system(SystemActor::Maintenance, 'statistics'))
                            ->keeper($cluster)
                            ?->apply($sql, static fn (): bool => false),
                    );
                }
            }
        } catch (SourceError $error) {
            $this->error($error->getMessage());

            return self::FAILURE;
        }

        return self::SUCCESS;
    }
}
