<?php

declare(strict_types=1);

namespace App\Backup\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;

/**
 * The schemas a cluster holds, whether some backup names them or not.
 */
final readonly class HeldSchemas
{
    public function __construct(private Clusters $clusters)
    {
    }

    /**
     * @return list<string> none where the cluster does not tell
     */
    public function of(Cluster $cluster): array
    {
        try {
            $catalog = $this->clusters->as(Actor::system(SystemActor::Meter, 'which schemas should have backups'))->catalog($cluster);
            $names = [];
            foreach ($catalog?->objects(false) ?? [] as $object) {
                $names[$object->schema] = true;
            }
        } catch (SourceError) {
            return [];
        }

        return array_map(strval(...), array_keys($names));
    }
}
