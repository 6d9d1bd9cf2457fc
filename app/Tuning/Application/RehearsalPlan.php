<?php

declare(strict_types=1);

namespace App\Tuning\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\IndexSource;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Models\Change;
use App\Ledger\Models\ProofRecord;
use Fulcrion\Core\Storage\Indexes\IndexedTable;
use Fulcrion\Core\Storage\Indexes\RehearsalCost;
use Fulcrion\Core\Text\Quantity;

/**
 * Where an index is tried, and what that takes.
 */
final readonly class RehearsalPlan
{
    /** Earlier rehearsals an estimate looks at. */
    private const EARLIER = 5;

    public function __construct(private Clusters $clusters)
    {
    }

    /**
     * The cluster that is tried on: the one people named, else the one that is to be changed.
     *
     * @throws SourceError where the one they named is gone: nobody meant another
     */
    public function place(Change $change): Cluster
    {
        return $change->rehearse_on_id === null ? $change->cluster : $change->rehearseOn ?? throw new SourceError(
            'The server this was to be rehearsed on was removed. Choose where to rehearse it on the page of the change.',
        );
    }

    /**
     * @throws SourceError
     */
    public function source(Cluster $cluster): IndexSource
    {
        return $this->clusters->as(Actor::system(SystemActor::Rehearsal, 'a change of indexes'))->indexes($cluster) ??
            throw new SourceError("Indexes of {$cluster->name} cannot be changed from here.");
    }

    /**
     * What it would take, by earlier ones on the same server where there are any.
     *
     * @throws SourceError
     */
    public function estimate(Change $change): RehearsalCost
    {
        $place = $this->place($change);
        $probe = $this->source($place)->probe($change->object);
        $earlier = ProofRecord::query()
            ->whereNotNull('costs')
            ->where('kind', 'rehearsal')
            ->where('costs->cluster', $place->id)
            ->orderByDesc('id')
            ->limit(self::EARLIER)
            ->pluck('costs');

        return RehearsalCost::of($probe['rows'], $probe['rowBytes'], array_values($earlier->map(static fn (array $one): array => [
            'rows' => (int) $one['rows'], 'bytes' => (float) $one['bytes'], 'copyUs' => (float) $one['copyUs'],
            'buildUs' => (float) $one['buildUs'],
        ])->all()), $probe['readUsPerRow']);
    }

    /**
     * Refuses a server on which nothing could be shown.
     *
     * @throws SourceError
     */
    public function check(Change $change): void
    {
        $place = $this->place($change);
        if ($place->is($change->cluster)) {
            return;
        }
        $there = $this->source($place)->tables()[$change->object] ?? throw new SourceError(
            "{$place->name} has no table {$change->object}. Rehearse on a server that has the tables of {$change->cluster->name}.",
        );
        $here = $this->source($change->cluster)->tables()[$change->object] ?? null;
        $lacking = $here === null ? [] : array_diff(array_keys($here->columns), array_keys($there->columns));
        if ($lacking !== []) {
            throw new SourceError(
                "On {$place->name} the table {$change->object} lacks ".implode(', ', $lacking).
                    ', so statements would not run there as here. Rehearse on a server with the same tables.',
            );
        }
    }

    /**
     * How the table there differs from the one that is to be changed, as a condition of the proof.
     *
     * @return array<string, string>
     */
    public function differences(Change $change): array
    {
        $place = $this->place($change);
        if ($place->is($change->cluster)) {
            return [];
        }
        [$here, $there] = array_map(
            fn (Cluster $one): ?IndexedTable => $this->source($one)->tables()[$change->object] ?? null,
            [$change->cluster, $place],
        );
        $names = static fn (?IndexedTable $table): array => array_map(
            static fn ($index): string => implode(', ', $index->columns),
            $table->indexes ?? [],
        );
        $other = [...array_diff($names($here), $names($there)), ...array_diff($names($there), $names($here))];

        return [
            'on another server' => "{$place->name}; nothing was done on {$change->cluster->name}. Its table has ".
                Quantity::count($there->rows ?? 0).' rows, the one of '.$change->cluster->name.' '.Quantity::count($here->rows ?? 0).
                ($other === [] ? '; both have the same indexes' : '; not both have an index on '.implode(' and on ', array_map(
                    static fn (string $columns): string => "({$columns})",
                    array_values(array_unique($other)),
                ))),
        ];
    }

    /**
     * @return array<int, string>
     */
    public static function places(Change $change): array
    {
        $others = Cluster::query()
            ->where('connector', $change->cluster->connector)
            ->where('id', '!=', $change->cluster_id)
            ->orderBy('name')
            ->pluck('name', 'id');

        return [$change->cluster_id => "{$change->cluster->name}, on a copy in another schema"] + $others
            ->map(static fn (string $name): string => "{$name}, on a copy of its own table of that name")
            ->all();
    }

    /**
     * @return list<array{string, string}>
     */
    public static function costs(Change $change): array
    {
        $kept = $change->expected['rehearsal'] ?? null;
        if ($kept === null) {
            return [];
        }
        $cost = RehearsalCost::fromArray($kept);
        $share = $change->copy_share;
        $basis = match (true) {
            $cost->rehearsals === 0 => 'modelled, by reading some rows',
            $cost->rehearsals === 1 => 'by the last rehearsal there',
            default => "by the last {$cost->rehearsals} rehearsals there",
        };
        $costs = [[
            'rehearsing',
            'about '.Quantity::duration($cost->copyUs($share) + $cost->buildUs($cost->rows($share))).' ('.$basis.'): '.
                Quantity::count($cost->rows($share)).($share < 1 ? ' of '.Quantity::count($cost->tableRows) : '').' rows, '.
                Quantity::bytes($cost->bytes($share)).' until the copy is gone again; besides, each statement is run eight times',
        ]];
        $measured = $change->latestProof('rehearsal')->costs ?? null;
        if ($measured !== null) {
            $costs[] = [
                'it took', Quantity::duration($measured['copyUs'] + $measured['buildUs']).' for '.Quantity::count((int) $measured['rows']).
                    ' rows (measured)',
            ];
        }
        if (str_starts_with($change->sealed_steps[0] ?? '', 'CREATE')) {
            $costs[] = [
                'making it on the table',
                'about '.Quantity::duration($measured === null
                    ? $cost->buildUs($cost->tableRows)
                    : $cost->tableUs((int) $measured['rows'], (float) $measured['buildUs'])).
                    ($measured === null ? ' (modelled)' : ' (by the copy)').
                    '; others go on reading and writing it meanwhile. It takes about '.
                    Quantity::bytes($change->expected['costBytes']).' on disk',
            ];
        }

        return $costs;
    }
}
