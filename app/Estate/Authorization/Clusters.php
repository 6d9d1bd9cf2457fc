<?php

declare(strict_types=1);

namespace App\Estate\Authorization;

use App\Estate\Connectors\Connectors;
use App\Estate\Limits\StatementGate;
use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use Illuminate\Contracts\Container\Container;

/**
 * The one way to clusters: nothing runs on any of them without an actor.
 */
final readonly class Clusters
{
    /**
     * @param  Container  $container asked for the doorkeeper when one is needed, since who decides reads the catalog through here
     */
    public function __construct(private Connectors $connectors, private Container $container)
    {
    }

    public function as(Actor $actor): ActorClusters
    {
        return new ActorClusters(
            $actor,
            $this->connectors,
            fn (): QueryAuthorizer => $this->container->make(QueryAuthorizer::class),
            fn (): StatementGate => $this->container->make(StatementGate::class),
        );
    }

    /**
     * For a person.
     *
     * @param  string  $where it is asked, in one word
     * @param  bool  $isKept whether what is run is kept like executions that are observed
     */
    public function for(User $person, string $where, bool $isKept = false): ActorClusters
    {
        return $this->as(Actor::person($person, $where, $isKept));
    }

    /** What a person may be shown of what was read of a cluster. */
    public function visibility(User $person, Cluster $cluster): TableVisibility
    {
        return $this->container->make(QueryAuthorizer::class)->visibility($person, $cluster);
    }
}
