<?php

declare(strict_types=1);

namespace App\Sessions\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Models\Cluster;
use PDOException;

/**
 * Who waits for whom on a live server at this moment, as the collector sees it.
 */
final readonly class SessionsNow
{
    public function __construct(private Clusters $clusters)
    {
    }

    /**
     * @return array{LockView|null, bool} null where it is no live server; whether sessions can be stopped
     *
     * @throws PDOException when the server does not answer
     */
    public function on(Cluster $cluster): array
    {
        $source = $this->clusters->as(Actor::system(SystemActor::Collector, 'sessions that wait'))->sessions($cluster);

        return $source === null ? [null, false] : [new LockView($cluster, $source->waiting()), $source->canStop()];
    }
}
