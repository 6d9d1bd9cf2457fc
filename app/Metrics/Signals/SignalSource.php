<?php

declare(strict_types=1);

namespace App\Metrics\Signals;

use App\Estate\Models\Cluster;

/**
 * What a capability knows of clusters over time, for whoever watches.
 */
interface SignalSource
{
    /** What keys of its signals begin with, before the colon. */
    public function prefix(): string;

    /**
     * @return list<Signal> that a cluster has
     */
    public function signals(Cluster $cluster): array;

    /** Seconds after which values of a moment are there for sure. */
    public function delaySeconds(Cluster $cluster): int;

    /**
     * @param  string  $key of the signal, without the prefix
     * @param  int  $step a minute, five minutes, an hour or a day
     * @return array<array-key, list<float|null>> one a step, by host; by the empty name where it is of the cluster
     */
    public function values(Cluster $cluster, string $key, int $from, int $to, int $step): array;
}
