<?php

declare(strict_types=1);

namespace App\Telemetry\Workload;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\ActorClusters;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Authorization\TableVisibility;
use App\Estate\Connectors\LayoutSource;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Estate\Rollups\LookupState;
use App\Estate\Rollups\RollupState;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Telemetry\Store\PlanStore;
use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\HelperName;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Core\Storage\Estate;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Storage\TableOutline;
use Illuminate\Support\Facades\DB;

/**
 * The tables of a cluster with their workload.
 */
final readonly class EstateReader
{
    public function __construct(private Clusters $clusters, private WorkloadReader $workload, private PlanStore $plans)
    {
    }

    public function source(Cluster $cluster): ?LayoutSource
    {
        return $this->reach()->layouts($cluster);
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
        return self::withoutHelpers($this->source($cluster)?->layouts() ?? []);
    }

    /**
     * The same in outline, in which there is no value anybody could be kept from.
     *
     * @return array<string, TableOutline>
     *
     * @throws SourceError
     */
    public function outlines(Cluster $cluster): array
    {
        return self::withoutHelpers($this->source($cluster)?->outlines() ?? []);
    }

    /**
     * @template T of TableLayout|TableOutline
     *
     * @param  array<string, T>  $tables
     * @return array<string, T>
     */
    private static function withoutHelpers(array $tables): array
    {
        return array_filter($tables, static fn (TableLayout|TableOutline $table): bool =>
            ! HelperName::is(...explode('.', $table->name, 2)));
    }

    /** Whether a cluster tells how its tables are laid out. */
    public function tells(Cluster $cluster): bool
    {
        return $this->source($cluster) !== null;
    }

    /**
     * The same as far as a person may see it: without values of columns that are not open to them.
     *
     * @return array<string, TableLayout>
     *
     * @throws SourceError
     */
    public function shown(User $person, Cluster $cluster): array
    {
        $visibility = $this->clusters->visibility($person, $cluster);

        return array_map(static fn (TableLayout $layout): TableLayout => self::veiled($layout, $visibility), $this->layouts($cluster));
    }

    /**
     * One table with all that is known of it, as far as a person may see it.
     *
     * @throws SourceError
     */
    public function shownLayout(User $person, Cluster $cluster, string $table): ?TableLayout
    {
        $layout = $this->source($cluster)?->layout($table);

        return $layout === null ? null : self::veiled($layout, $this->clusters->visibility($person, $cluster));
    }

    private static function veiled(TableLayout $layout, TableVisibility $visibility): TableLayout
    {
        $columns = array_map(static fn (Column $column): string => $column->name, $layout->definition->columns);

        return $layout->withheld(
            array_values(array_filter($columns, static fn (string $column): bool => ! $visibility->seesColumn($layout->name, $column))),
        );
    }

    /** A rollup or lookup by its name. */
    public function rollup(Cluster $cluster, string $name): RollupState|LookupState|null
    {
        $source = $this->reach()->rollups($cluster);
        foreach ($source === null ? [] : [...$source->rollups(), ...$source->lookups()] as $one) {
            if ($one->name === $name) {
                return $one;
            }
        }

        return null;
    }

    private function reach(): ActorClusters
    {
        return $this->clusters->as(Actor::system(SystemActor::Audit, 'the layout of tables'));
    }

    /**
     * @param  array<string, TableLayout>  $layouts
     * @param  string|null  $table only what touches it; null for all
     */
    public function estate(Cluster $cluster, array $layouts, ?string $table = null): Estate
    {
        $source = $this->source($cluster) ?? throw new SourceError("{$cluster->name} does not tell how its tables lie.");

        return new Estate(
            $layouts,
            $this->workload->of($cluster, $layouts, $table, $this->views($cluster)),
            $source->rates(),
            Clock::microseconds(),
            $this->misestimates($cluster),
        );
    }

    /**
     * @return array<string, string> schema.view => its text
     */
    private function views(Cluster $cluster): array
    {
        $views = [];
        foreach ($this->reach()->objects($cluster) ?? [] as $object) {
            if ($object->isView && $object->definition !== null) {
                $views[strtolower("{$object->schema}.{$object->name}")] = $object->definition;
            }
        }

        return $views;
    }

    /**
     * @return array<string, array{factor: float, statement: string}>
     */
    private function misestimates(Cluster $cluster): array
    {
        $worst = [];
        foreach (
            DB::table('plans')->where('cluster_id', $cluster->id)->where('actual',
                true)->orderByDesc('last_us')->limit(500)->cursor() as $row
        ) {
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
