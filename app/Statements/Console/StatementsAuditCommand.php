<?php

declare(strict_types=1);

namespace App\Statements\Console;

use App\Estate\Models\Cluster;
use App\Statements\Application\Regressions;
use Illuminate\Console\Command;

final class StatementsAuditCommand extends Command
{
    protected $signature = 'statements:audit {cluster? : slug; all when left out}';

    protected $description = 'Looks for statements that became slower and for those whose load is steady';

    public function handle(Regressions $regressions): int
    {
        /** @var list<Cluster> $clusters */
        $clusters = Cluster::query()
            ->when(is_string($this->argument('cluster')), fn ($query) => $query->where('slug', $this->argument('cluster')))
            ->orderBy('id')
            ->get()
            ->all();
        foreach ($clusters as $cluster) {
            $found = $regressions->run($cluster);
            $this->line("  {$cluster->name}: {$found['open']} regressions and steady loads, {$found['new']} new");
        }

        return self::SUCCESS;
    }
}
