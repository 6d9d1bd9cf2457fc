<?php

declare(strict_types=1);

namespace App\Estate\Authorization;

use App\Estate\Catalog\CatalogObject;
use App\Estate\Connectors\AccessSource;
use App\Estate\Connectors\CatalogSource;
use App\Estate\Connectors\Connectors;
use App\Estate\Connectors\IndexSource;
use App\Estate\Connectors\JobRuns;
use App\Estate\Connectors\LayoutSource;
use App\Estate\Connectors\NodeSource;
use App\Estate\Connectors\PlanSource;
use App\Estate\Connectors\RewriteSource;
use App\Estate\Connectors\RollupSource;
use App\Estate\Connectors\SampleSource;
use App\Estate\Connectors\SessionSource;
use App\Estate\Connectors\SettingSource;
use App\Estate\Connectors\SourceError;
use App\Estate\Connectors\SpaceSource;
use App\Estate\Connectors\StatementSource;
use App\Estate\Connectors\StateSource;
use App\Estate\Connectors\TableKeeper;
use App\Estate\Limits\StatementGate;
use App\Estate\Models\Cluster;
use Closure;
use Fulcrion\Core\Catalog\HelperName;
use LogicException;

/**
 * What one actor reaches of clusters. A person reaches what is decided for them; everything that shows tables as they are
 * is for named parts of the system.
 */
final readonly class ActorClusters
{
    /**
     * @param  Closure(): QueryAuthorizer  $authorizer
     * @param  Closure(): StatementGate  $gate
     */
    public function __construct(
        private Actor $actor,
        private Connectors $connectors,
        private Closure $authorizer,
        private Closure $gate,
    ) {
    }

    /** Null when statements cannot be run on a cluster. */
    public function runner(Cluster $cluster): ?ActingRunner
    {
        $runner = $this->connectors->runner($cluster);

        return $runner === null
            ? null
            : new ActingRunner(
                $this->actor,
                $cluster,
                $runner,
                $this->connectors->rewriting($cluster),
                $this->authorizer,
                $this->gate,
            );
    }

    /**
     * Tables and views by name; null when the cluster does not tell. Objects that changes keep and build are not told to a person.
     *
     * @return list<CatalogObject>|null
     *
     * @throws SourceError
     */
    public function objects(Cluster $cluster): ?array
    {
        $objects = $this->connectors->catalog($cluster)?->objects();

        return $objects === null || $this->actor->person === null
            ? $objects
            : array_values(array_filter($objects, static fn (CatalogObject $one): bool => ! HelperName::is($one->schema, $one->name)));
    }

    /**
     * Puts a file where COPY finds it.
     *
     * @throws SourceError
     */
    public function receive(Cluster $cluster, string $name, string $path): void
    {
        (
            $this->connectors->practice($cluster) ?? throw new SourceError("{$cluster->name} is no practice cluster and takes no files.")
        )->receive($name, $path);
    }

    /** Takes a file away that was received. */
    public function discard(Cluster $cluster, string $name): void
    {
        $this->bySystem()->practice($cluster)?->discard($name);
    }

    public function catalog(Cluster $cluster): ?CatalogSource
    {
        return $this->bySystem()->catalog($cluster);
    }

    public function layouts(Cluster $cluster): ?LayoutSource
    {
        return $this->bySystem()->layouts($cluster);
    }

    public function keeper(Cluster $cluster): ?TableKeeper
    {
        return $this->bySystem()->keeper($cluster);
    }

    public function rollups(Cluster $cluster): ?RollupSource
    {
        return $this->bySystem()->rollups($cluster);
    }

    public function rewriting(Cluster $cluster): ?RewriteSource
    {
        return $this->bySystem()->rewriting($cluster);
    }

    public function indexes(Cluster $cluster): ?IndexSource
    {
        return $this->bySystem()->indexes($cluster);
    }

    public function jobs(Cluster $cluster): ?JobRuns
    {
        return $this->bySystem()->jobs($cluster);
    }

    public function access(Cluster $cluster): ?AccessSource
    {
        return $this->bySystem()->access($cluster);
    }

    public function statements(Cluster $cluster): ?StatementSource
    {
        return $this->bySystem()->statements($cluster);
    }

    public function sessions(Cluster $cluster): ?SessionSource
    {
        return $this->bySystem()->sessions($cluster);
    }

    public function states(Cluster $cluster): ?StateSource
    {
        return $this->bySystem()->states($cluster);
    }

    public function nodes(Cluster $cluster): ?NodeSource
    {
        return $this->bySystem()->nodes($cluster);
    }

    public function samples(Cluster $cluster): ?SampleSource
    {
        return $this->bySystem()->samples($cluster);
    }

    public function space(Cluster $cluster): ?SpaceSource
    {
        return $this->bySystem()->space($cluster);
    }

    public function settings(Cluster $cluster): ?SettingSource
    {
        return $this->bySystem()->settings($cluster);
    }

    public function plans(Cluster $cluster): ?PlanSource
    {
        return $this->bySystem()->plans($cluster);
    }

    /** Forgets versions of tables that were written before a moment and are not current. */
    public function expire(Cluster $cluster, int $beforeUs): void
    {
        $this->bySystem()->practice($cluster)?->expire($beforeUs);
    }

    private function bySystem(): Connectors
    {
        return $this->actor->system === null
            ? throw new LogicException('Tables as they are can be reached by a named part of the system only.')
            : $this->connectors;
    }
}
