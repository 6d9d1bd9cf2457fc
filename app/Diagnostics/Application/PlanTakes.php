<?php

declare(strict_types=1);

namespace App\Diagnostics\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Telemetry\Store\PlanStore;
use Fulcrion\Core\Sql\Fingerprint;
use Fulcrion\Core\Sql\Reading;
use Fulcrion\Core\Telemetry\Execution;
use stdClass;

/**
 * Takes plans of the reads a live server has just run, within a budget: which statements run by which plan, and since when.
 */
final readonly class PlanTakes
{
    /** Of one reading. */
    private const STATEMENTS = 10;

    private const BUDGET_US = 500_000;

    /** A statement whose plan was taken so shortly before is left to the others. */
    private const AGAIN_US = 15_000_000;

    /** After a statement could not be explained. */
    private const REFUSED_AGAIN_US = 1_800_000_000;

    private const KEPT_US = 60 * 86_400_000_000;

    public function __construct(private Clusters $clusters, private PlanStore $plans)
    {
    }

    /**
     * @param  list<array{Execution, Fingerprint}>  $runs
     */
    public function take(Cluster $cluster, array $runs): void
    {
        $source = $this->clusters->as(Actor::system(SystemActor::Collector, 'plans of live statements'))->plans($cluster);
        if ($source === null) {
            return;
        }
        $chosen = $this->chosen($cluster, $runs);
        $began = hrtime(true);
        foreach ($chosen as $id => $execution) {
            if (intdiv((int) (hrtime(true) - $began), 1000) > self::BUDGET_US) {
                return;
            }
            $nowUs = Clock::microseconds();
            try {
                $plan = $source->explain($execution->sql, $execution->origin->database);
                $this->plans->keep($cluster->id, (string) $id, $plan, $nowUs);
                $this->plans->noteTake($cluster->id, (string) $id, $nowUs, $plan->fingerprint(), null);
            } catch (SourceError $error) {
                $this->plans->noteTake($cluster->id, (string) $id, $nowUs, null, mb_strcut($error->getMessage(), 0, 300));
            }
        }
    }

    /**
     * The reads to be explained, longest untaken first, then by the time they took.
     *
     * @param  list<array{Execution, Fingerprint}>  $runs
     * @return array<string, Execution> one of each statement
     */
    private function chosen(Cluster $cluster, array $runs): array
    {
        $latest = $us = [];
        foreach ($runs as [$execution, $statement]) {
            // Without its values a statement cannot be explained; what was cut off neither.
            if (
                preg_match('~^\(*\s*(SELECT|WITH)\b~i', $statement->text) !== 1 ||
                Reading::hasHiddenValues($execution->sql) ||
                preg_match('~\b(information_schema|performance_schema)\b~i', $statement->text) === 1
            ) {
                continue;
            }
            $latest[$statement->id] = $execution;
            $us[$statement->id] = ($us[$statement->id] ?? 0) + $execution->durationUs;
        }
        $known = $this->plans->takes($cluster->id, array_map(strval(...), array_keys($latest)));
        $nowUs = Clock::microseconds();
        $isDue = static fn (?stdClass $take): bool => $take === null ||
            $nowUs - $take->last_us > ($take->problem === null ? self::AGAIN_US : self::REFUSED_AGAIN_US);
        $due = array_filter(
            $latest,
            static fn (Execution $execution, int|string $id): bool => $isDue($known[$id] ?? null),
            ARRAY_FILTER_USE_BOTH,
        );
        uksort($due, static fn (int|string $a, int|string $b): int => [intdiv((int) ($known[$a]->last_us ?? 0), self::AGAIN_US), $us[$b]]
            <=> [intdiv((int) ($known[$b]->last_us ?? 0), self::AGAIN_US), $us[$a]]);

        return array_slice($due, 0, self::STATEMENTS, true);
    }

    public function prune(): void
    {
        $this->plans->pruneTakes(Clock::microseconds() - self::KEPT_US);
    }
}
