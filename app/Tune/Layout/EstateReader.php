<?php

declare(strict_types=1);

namespace App\Tune\Layout;

use App\Estate\Connectors\Connectors;
use App\Estate\Connectors\LayoutSource;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Estate\Telemetry\PlanStore;
use App\Estate\Workload\WorkloadReader;
use App\Platform\Support\Clock;
use Fulcrion\Core\Layout\Estate;
use Fulcrion\Core\Layout\TableLayout;
use Fulcrion\Core\Plans\StepKind;
use Illuminate\Support\Facades\DB;

/**
 * The tables of a cluster with their workload.
 */
final readonly class EstateReader
{
    public function __construct(private Connectors $connectors, private WorkloadReader $workload, private PlanStore $plans)
    {
    }

    public function source(Cluster $cluster): ?LayoutSource
    {
        return $this->connectors->layouts($cluster);
    }

    /**
     * Without tables that changes keep or build, and without rehearsals.
     *
     * @return array<string, TableLayout>
     *
     * @throws SourceError
     */
    public function layouts(Cluster $cluster): array
    {
        return array_filter(
            $this->source($cluster)?->layouts() ?? [],
            static fn (TableLayout $layout): bool => preg_match('~__(?:kept|new|back|undone)_\d+$|^rehearsal_\d+\.~', $layout->name) !== 1,
        );
    }

    /**
     * @param  array<string, TableLayout>  $layouts
     * @param  string|null  $table only what touches it; null for all
     */
    public function estate(Cluster $cluster, array $layouts, ?string $table = null): Estate
    {
        $source = $this->source($cluster) ?? throw new SourceError("{$cluster->name} does not tell how its tables lie.");

        return new Estate($layouts, $this->workload->of($cluster, $layouts, $table), $source->rates(), Clock::microseconds(), $this->misestimates($cluster));
    }

    /**
     * @return array<string, array{factor: float, statement: string}>
     */
    private function misestimates(Cluster $cluster): array
    {
        $worst = [];
        foreach (DB::table('plans')->where('cluster_id', $cluster->id)->where('actual', true)->orderByDesc('last_us')->limit(500)->cursor() as $row) {
            foreach ($this->plans->open($row->sealed)->steps() as $step) {
                // What a join above left out of a read is not the estimate's fault, so joins are held against their tables too.
                $factor = $step->kind === StepKind::Scan ? $step->errorFactor() : null;
                $name = $step->table->name ?? '';
                if ($factor !== null && $factor > ($worst[$name]['factor'] ?? 1.5)) {
                    $worst[$name] = ['factor' => $factor, 'statement' => $row->statement];
                }
            }
        }

        return $worst;
    }
}
