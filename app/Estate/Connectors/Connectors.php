<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use App\Estate\Models\Cluster;

/**
 * Which connector serves a cluster, by ability. Null means the cluster lacks the ability.
 */
class Connectors
{
    public function statements(Cluster $cluster): ?StatementSource
    {
        return $cluster->connector === 'mariadb' ? new MariaDbSource($cluster) : null;
    }

    public function sessions(Cluster $cluster): ?SessionSource
    {
        return $cluster->connector === 'mariadb' ? new MariaDbSessions($cluster) : null;
    }

    public function states(Cluster $cluster): ?StateSource
    {
        return $cluster->connector === 'mariadb' ? new MariaDbState($cluster) : null;
    }

    public function nodes(Cluster $cluster): ?NodeSource
    {
        return $this->practice($cluster);
    }

    public function samples(Cluster $cluster): ?SampleSource
    {
        return $cluster->connector === 'mariadb' ? new MariaDbSamples($cluster) : null;
    }

    public function space(Cluster $cluster): ?SpaceSource
    {
        return $cluster->connector === 'mariadb' ? new MariaDbSpace($cluster) : $this->practice($cluster);
    }

    public function settings(Cluster $cluster): ?SettingSource
    {
        return $cluster->connector === 'mariadb' ? new MariaDbSettings($cluster) : $this->practice($cluster);
    }

    /** How statements would run now, asked while others wait: for a second at most. */
    public function plans(Cluster $cluster): ?PlanSource
    {
        return $cluster->connector === 'mariadb' ? new MariaDbConnector($cluster, seconds: 1) : null;
    }

    public function catalog(Cluster $cluster): ?CatalogSource
    {
        return $this->both($cluster);
    }

    public function runner(Cluster $cluster): ?QueryRunner
    {
        return $this->both($cluster);
    }

    public function layouts(Cluster $cluster): ?LayoutSource
    {
        return $this->practice($cluster);
    }

    public function keeper(Cluster $cluster): ?TableKeeper
    {
        return $this->practice($cluster);
    }

    public function rollups(Cluster $cluster): ?RollupSource
    {
        return $this->practice($cluster);
    }

    public function rewriting(Cluster $cluster): ?RewriteSource
    {
        return $this->practice($cluster);
    }

    public function indexes(Cluster $cluster): ?IndexSource
    {
        return $cluster->connector === 'mariadb' && (! $cluster->is_own || config('fulcrion.keeper.password') !== null)
            ? new MariaDbIndexes($cluster)
            : null;
    }

    public function practice(Cluster $cluster): ?PracticeConnector
    {
        return $cluster->connector === 'practice' ? new PracticeConnector($cluster) : null;
    }

    /** Where parallel jobs can be run with any number of workers. */
    public function jobs(Cluster $cluster): ?JobRuns
    {
        return $cluster->connector === 'practice' ? new JobRuns() : null;
    }

    /** Who may see what, as the server itself keeps it. */
    public function access(Cluster $cluster): ?AccessSource
    {
        return $cluster->connector === 'mariadb' && $cluster->is_own && config('fulcrion.keeper.password') !== null
            ? new MariaDbAccess($cluster)
            : null;
    }

    private function both(Cluster $cluster): PracticeConnector|MariaDbConnector|null
    {
        return match ($cluster->connector) {
            'practice' => new PracticeConnector($cluster),
            'mariadb' => new MariaDbConnector($cluster),
            default => null,
        };
    }
}
