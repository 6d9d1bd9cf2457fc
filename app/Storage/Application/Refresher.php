<?php

declare(strict_types=1);

namespace App\Storage\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Estate\Rollups\RollupState;

/**
 * Brings rollups up to their tables.
 */
final readonly class Refresher
{
    public function __construct(private Clusters $clusters)
    {
    }

    /**
     * @return list<string> what was done, in words
     *
     * @throws SourceError
     */
    public function all(Cluster $cluster): array
    {
        $done = [];
        foreach (
            $this->clusters->as(Actor::system(SystemActor::Refresh, 'rollups behind their '
                .'tables'))->rollups($cluster)?->rollups() ?? [] as $rollup
        ) {
            if ($rollup->missingChunks > 0 || $rollup->broken !== '') {
                try {
                    $done[] = $this->one($cluster, $rollup);
                } catch (SourceError $error) {
                    // A rollup whose table is gone must not keep the others behind.
                    $done[] = "{$rollup->name}: {$error->getMessage()}";
                }
            }
        }

        return $done;
    }

    /**
     * @throws SourceError
     */
    public function one(Cluster $cluster, RollupState $rollup): string
    {
        $keeper =
            $this->clusters->as(Actor::system(SystemActor::Refresh, 'rollups behind their tables'))->keeper($cluster) ??
            throw new SourceError("{$cluster->name} is only watched.");

        return $keeper->apply($rollup->refresh(), static fn (): bool => false);
    }
}
