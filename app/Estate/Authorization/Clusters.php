<?php

declare(strict_types=1);

namespace App\Estate\Authorization;

use App\Estate\Connectors\Connectors;
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

    public function as(Actor $actor): Reach
    {
        return new Reach($actor, $this->connectors, fn (): Doorkeeper => $this->container->make(Doorkeeper::class));
    }

    /**
     * For a person.
     *
     * @param  string  $where it is asked, in one word
     */
    public function for(User $person, string $where): Reach
    {
        return $this->as(Actor::person($person, $where));
    }

    /** What a person may be shown of what was read of a cluster. */
    public function sighting(User $person, Cluster $cluster): Sighting
    {
        return $this->container->make(Doorkeeper::class)->sighting($person, $cluster);
    }
}
