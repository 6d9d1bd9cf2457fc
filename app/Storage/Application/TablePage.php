<?php

declare(strict_types=1);

namespace App\Storage\Application;

use App\Estate\Authorization\Clusters;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Changes\ChosenStatements;
use App\Ledger\Findings\WeightUnit;
use App\Ledger\Models\Change;
use App\Ledger\Models\Finding;
use App\Platform\Models\User;
use App\Storage\Charts\ChunkFigure;
use App\Storage\Charts\PlaceFigure;
use App\Storage\Models\MaintenancePlan;
use App\Telemetry\Workload\Advisor;
use App\Telemetry\Workload\EstateReader;
use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ZoneMap;
use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Core\Storage\ChunkIndex;
use Fulcrion\Core\Storage\ClusteringAdvisor;
use Fulcrion\Core\Storage\LayoutTrial;
use Fulcrion\Core\Storage\Overlap;
use Fulcrion\Core\Storage\Predicate;
use Fulcrion\Core\Storage\TableLayout;
use Illuminate\Support\Facades\DB;

/**
 * What the page of one table says. Shares and sizes are computed on all there is; bounds are drawn only of columns whose
 * values are open to whoever looks.
 */
final readonly class TablePage
{
    public function __construct(private EstateReader $reader, private Clusters $clusters, private Advisor $advisor)
    {
    }

    /**
     * @param  string|null  $wanted column to draw
     * @param  int|null  $nodeNumber from 1
     * @return array<string, mixed>|null null when there is no such table
     *
     * @throws SourceError
     */
    public function of(User $person, Cluster $cluster, string $name, ?string $wanted, ?int $nodeNumber): ?array
    {
        $layouts = $this->reader->layouts($cluster);
        if (! isset($layouts[$name])) {
            return null;
        }
        $whole = $this->reader->source($cluster)?->layout($name) ?? $layouts[$name];
        $layouts[$name] = $whole;
        $shown = $this->reader->shownLayout($person, $cluster, $name) ?? $whole;
        $visibility = $this->clusters->visibility($person, $cluster);
        $estate = $this->reader->estate($cluster, $layouts, $name);
        $columns = array_map(static fn (Column $column): string => $column->name, $whole->definition->columns);
        $open = array_values(array_filter($columns, static fn (string $column): bool => $visibility->seesColumn($name, $column)));
        $uses = $estate->workload->columns($name);
        $preferred = [
            $whole->definition->clustering[0] ?? null,
            $this->mostFiltered($uses),
            $whole->definition->partitioning?->column,
            ...$open,
            $columns[0],
        ];
        $default =
            array_values(
                array_filter($preferred, static fn (?string $column): bool => $column !== null && in_array($column, $open, true)),
            )[0] ?? $columns[0];
        $column = in_array($wanted, $columns, true) ? $wanted : $default;
        $node = $nodeNumber !== null && $nodeNumber >= 1 && $nodeNumber <= $whole->nodes ? $nodeNumber - 1 : null;
        $overlap = Overlap::of($shown, $column, $node);
        $asked = (new ClusteringAdvisor($estate))->asked($whole);

        return [
            'cluster' => $cluster,
            'table' => $whole,
            'estate' => $estate,
            'uses' => $uses,
            'column' => $column,
            'open' => $open,
            'node' => $node,
            'overlap' => $overlap,
            'share' => $asked === [] ? null : LayoutTrial::share($estate->reads($whole)->index(), $asked),
            'findings' => Finding::query()
                ->where('cluster_id', $cluster->id)
                ->where(static fn ($query) => $query->where('object', $name)->orWhere('object', 'like', addcslashes($name, '%_\\').'#%'))
                ->orderByRaw("state IN ('open', 'accepted') DESC")
                ->orderBy('severity')
                ->orderByRaw(WeightUnit::order())->orderByDesc('weight')
                ->get(),
            'changes' => Change::query()->where('cluster_id', $cluster->id)->where('object', $name)->orderByDesc('id')->limit(10)->get(),
            'chunkFigure' => $whole->chunks === [] || ! in_array($column, $open, true) ? null : ChunkFigure::of($shown, $column, $overlap),
            'nodeFigure' => $whole->nodes > 1 && $whole->chunks !== [] ? PlaceFigure::nodes($shown) : null,
            'partitionFigure' => $whole->definition->partitioning === null || $whole->chunks === []
                    ? null
                    : PlaceFigure::partitions($shown, $this->partitionShare($whole, $asked)),
            'statements' => ChosenStatements::candidates($estate->workload, $name),
            'texts' => DB::table('statements')
                ->whereIn(
                    'fingerprint',
                    array_map(static fn ($s): string => $s->id, array_slice($estate->workload->touching($name)->statements, 0, 400)),
                )
                ->pluck('text', 'fingerprint'),
            'maintenance' => MaintenancePlan::query()->where('cluster_id', $cluster->id)->where('object', $name)->first(),
        ];
    }

    /**
     * @return array<string, mixed>|null
     */
    public function advice(Cluster $cluster, string $name): ?array
    {
        $trouble = null;
        $advice = [];
        $table = null;
        try {
            $layouts = $this->reader->layouts($cluster);
            $table = $layouts[$name] ?? null;
            $source = $this->reader->source($cluster);
            $advice =
                $source === null || $table === null ? [] : $this->advisor->all($source, $this->reader->estate($cluster, $layouts), $table);
        } catch (SourceError $error) {
            $trouble = $error->getMessage();
        }

        return $table === null ? null : ['cluster' => $cluster, 'table' => $table, 'advice' => $advice, 'trouble' => $trouble];
    }

    /**
     * @param  array<string, array{filter: float, join: float, group: float, read: float, wrapped: float, durationUs: float}>  $uses
     */
    private function mostFiltered(array $uses): ?string
    {
        $best = null;
        foreach ($uses as $name => $one) {
            $best = $one['filter'] > ($best === null ? 0 : $uses[$best]['filter']) ? (string) $name : $best;
        }

        return $best;
    }

    /**
     * @param  list<array{weight: float, predicates: list<Predicate>}>  $asked
     */
    private function partitionShare(TableLayout $table, array $asked): ?float
    {
        $column = $table->definition->partitioning->column ?? '';
        $number = $table->definition->index($column);
        $asked = array_values(
            array_filter(
                array_map(
                    static fn (array $one): array => [
                        'weight' => $one['weight'],
                        'predicates' => array_values(array_filter($one['predicates'], static fn ($p): bool => $p->column === $column)),
                    ],
                    $asked,
                ),
                static fn (array $one): bool => $one['predicates'] !== [],
            ),
        );
        if ($asked === []) {
            return null;
        }
        $byPartition = [];
        foreach ($table->chunks as $chunk) {
            $byPartition[$chunk->partition][] = $chunk;
        }
        $zones = $sizes = [];
        foreach ($byPartition as $chunks) {
            $values = array_merge(
                ...array_map(
                    static fn (Chunk $c): array => $c->zones[$number]->min === null
                        ? []
                        : [$c->zones[$number]->min, $c->zones[$number]->max],
                    $chunks,
                ),
            );
            usort($values, static fn ($a, $b): int => $a <=> $b);
            $rows = array_sum(array_map(static fn (Chunk $c): int => $c->rows, $chunks));
            $zones[] = [new ZoneMap($values[0] ?? null, $values[count($values) - 1] ?? null, $values === [] ? $rows : 0, $rows, 0)];
            $sizes[] = $rows;
        }

        return LayoutTrial::share(new ChunkIndex($zones, $sizes, [$column]), $asked);
    }
}
