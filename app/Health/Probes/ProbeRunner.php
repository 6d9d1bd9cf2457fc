<?php

declare(strict_types=1);

namespace App\Health\Probes;

use App\Estate\Authorization\Clusters;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use Fulcrion\Core\Health\ProbeRun;
use Fulcrion\Core\Plans\PlanTotals;
use Illuminate\Auth\Access\AuthorizationException;

/**
 * Runs probes in the name of whoever set them up: what is not open to them is not open to their probe.
 */
final readonly class ProbeRunner
{
    public function __construct(private Clusters $clusters, private ProbeBook $book, private Contention $contention)
    {
    }

    /** Runs one that is due; one that fails is kept as failed. */
    public function run(Probe $probe, Cluster $cluster, int $now): void
    {
        $person = User::query()->find($probe->userId);
        if ($person === null) {
            $this->book->add($probe, [new ProbeRun($now, null)], 'Whoever set this probe up is not here any more. Set it up again.');

            return;
        }
        try {
            $this->book->add($probe, [$this->once($cluster, $person, $probe->sql, $probe->schema)]);
        } catch (SourceError|AuthorizationException $error) {
            $this->book->add($probe, [new ProbeRun($now, null)], $error->getMessage());
        }
    }

    /**
     * @throws SourceError where it cannot be run
     * @throws AuthorizationException where the person may not
     */
    public function once(Cluster $cluster, User $person, string $sql, string $schema): ProbeRun
    {
        $runner = $this->clusters->for($person, 'probe')->runner($cluster)
            ?? throw new SourceError("No statement can be run on {$cluster->name} from here.");
        $now = Clock::seconds();
        $answer = $runner->run($sql, $schema);
        $plan = $answer->plan ?? $answer->result?->plan;
        if ($plan !== null && $plan->modelled) {
            [$stretch, $waitedUs] = $this->contention->of($cluster, $now);

            return new ProbeRun($now, (int) round(PlanTotals::of($plan)->durationUs * $stretch) + $waitedUs, $waitedUs);
        }

        return new ProbeRun($now, max(1, $answer->result->elapsedUs ?? 1));
    }
}
