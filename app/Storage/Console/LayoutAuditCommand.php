<?php

declare(strict_types=1);

namespace App\Storage\Console;

use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Storage\Application\LayoutAudit;
use Illuminate\Console\Command;

final class LayoutAuditCommand extends Command
{
    protected $signature = 'storage:audit {cluster? : slug; all when left out}';

    protected $description = 'Holds all tables against the house rules';

    public function handle(LayoutAudit $audit): int
    {
        /** @var list<Cluster> $clusters */
        $clusters = Cluster::query()
            ->when(is_string($this->argument('cluster')), fn ($query) => $query->where('slug', $this->argument('cluster')))
            ->orderBy('id')
            ->get()
            ->all();
        foreach ($clusters as $cluster) {
            try {
                $result = $audit->run($cluster);
                if ($result !== null) {
                    $this->line("  {$cluster->name}: {$result['open']} findings, {$result['new']} new, {$result['solved']} solved");
                }
            } catch (SourceError $error) {
                $this->warn("  {$cluster->name}: {$error->getMessage()}");
            }
        }

        return self::SUCCESS;
    }
}
