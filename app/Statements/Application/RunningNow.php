<?php

declare(strict_types=1);

namespace App\Statements\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\RunningStatement;
use App\Estate\Models\Cluster;
use Fulcrion\Core\Sql\Fingerprint;
use Fulcrion\Core\Sql\Fingerprinter;

/**
 * The statements a live server runs at this moment, as the collector sees them; shown without their literals.
 */
final readonly class RunningNow
{
    public function __construct(private Clusters $clusters)
    {
    }

    /**
     * @return list<array{RunningStatement, Fingerprint}> oldest first
     */
    public function on(Cluster $cluster): array
    {
        $fingerprinter = new Fingerprinter($cluster->dialect);
        $source = $this->clusters->as(Actor::system(SystemActor::Collector, 'statements that run now'))->statements($cluster);

        return array_map(
            static fn (RunningStatement $one): array => [$one, $fingerprinter->of($one->sql)],
            array_values($source?->running() ?? []),
        );
    }
}
