<?php

declare(strict_types=1);

namespace App\Metrics\Intake;

use App\Estate\Models\Cluster;
use Closure;

/**
 * What agents are asked for with the answer to their readings: each capability registers what it has to ask.
 */
final class HostRequests
{
    /** @var list<Closure(Cluster, string): (array<string, mixed>|null)> */
    private array $sources = [];

    /**
     * @param  Closure(Cluster, string): (array<string, mixed>|null)  $source given a cluster and the name of a host
     */
    public function register(Closure $source): void
    {
        $this->sources[] = $source;
    }

    /**
     * @return array<string, mixed>|null the first thing that is asked; null for nothing
     */
    public function of(Cluster $cluster, string $host): ?array
    {
        foreach ($this->sources as $source) {
            $asked = $source($cluster, $host);
            if ($asked !== null) {
                return $asked;
            }
        }

        return null;
    }
}
