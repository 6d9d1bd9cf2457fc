<?php

declare(strict_types=1);

namespace App\Health\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SourceError;
use App\Estate\Connectors\StateSource;
use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Takes down how a server is, when it was started again, which of its variables changed, and whose statements waited for rows.
 */
final readonly class StateKeeper
{
    /** Variables are many and change seldom. */
    private const VARIABLES_US = 55_000_000;

    /** Servers tell to the second since when they run. */
    private const SLACK_US = 3_000_000;

    public function __construct(
        private Clusters $clusters,
        private MetricStore $store,
        private ServerEvents $events,
        private RowLockTime $locks,
        private StateFindings $findings,
    ) {
    }

    /**
     * @throws SourceError
     */
    public function read(Cluster $cluster): void
    {
        $source = $this->clusters->as(Actor::system(SystemActor::Collector, 'state of live servers'))->states($cluster);
        if ($source === null) {
            return;
        }
        $state = $source->state();
        $nowUs = Clock::microseconds();
        $this->store->keep($cluster->id, intdiv($nowUs, 1_000_000), $state->values);
        /** @var stdClass|null $memory */
        $memory = DB::table('server_memories')->where('cluster_id', $cluster->id)->first();
        $restarted = $memory !== null && $state->startedUs > (int) $memory->started_us + self::SLACK_US;
        if ($restarted) {
            $this->events->restarted($cluster, $state->startedUs, (int) $memory->read_us);
        }
        $known = ['started_us' => $state->startedUs, 'read_us' => $nowUs];
        $known += $this->locks->add($cluster, $state, $restarted ? null : $memory);
        $due = $restarted || $memory === null || $nowUs - (int) $memory->variables_us >= self::VARIABLES_US;
        if ($due) {
            $known += $this->variables($cluster, $source, $memory?->variables, $nowUs);
        }
        DB::table('server_memories')->upsert([['cluster_id' => $cluster->id] + $known], ['cluster_id'], array_keys($known));
        if ($due) {
            $this->findings->report($cluster);
        }
    }

    /**
     * @return array{variables_us: int, variables: string}
     */
    private function variables(Cluster $cluster, StateSource $source, ?string $before, int $nowUs): array
    {
        $variables = $source->variables();
        $known = $before === null ? null : json_decode($before, true);
        if (is_array($known)) {
            foreach ($variables + $known as $name => $value) {
                [$was, $is] = [$known[$name] ?? null, $variables[$name] ?? null];
                if ($was !== $is) {
                    $this->events->set($cluster, (string) $name, $was, $is, $nowUs);
                }
            }
        }

        return [
            'variables_us' => $nowUs,
            'variables' => json_encode($variables, JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE),
        ];
    }
}
