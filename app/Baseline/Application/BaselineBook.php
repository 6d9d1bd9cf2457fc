<?php

declare(strict_types=1);

namespace App\Baseline\Application;

use App\Baseline\Models\BaselineRun;
use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Metrics\Events\HostBaselineSent;
use App\Metrics\Store\ThisHost;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use Fulcrion\Core\Baseline\ToolText;
use Illuminate\Support\Facades\DB;

/**
 * Baselines that are asked for and that were measured.
 */
final readonly class BaselineBook
{
    /** An agent that has not come by for so long is asked no more: nobody expects to be measured then. */
    private const PATIENCE_US = 900_000_000;

    /** What was sent to an agent is over by then, or never came. */
    private const SENT_US = 1_800_000_000;

    private const NOTES = 20;

    public function __construct(private ThisHost $here, private Clusters $clusters)
    {
    }

    /**
     * Hosts that can be measured: nodes of a practice cluster, this host, and those whose agents send.
     *
     * @return list<string>
     *
     * @throws SourceError
     */
    public function hosts(Cluster $cluster): array
    {
        $nodes = $this->clusters->as(Actor::system(SystemActor::Health, 'which nodes there are'))->nodes($cluster)?->nodes()->names;
        if ($nodes !== null) {
            return $nodes;
        }
        $agents = DB::table('metric_sources')->where('cluster_id', $cluster->id)->where('kind', 'agent')->orderBy('host')->pluck('host')
            ->map(static fn (mixed $host): string => (string) $host)->all();

        return array_values(array_unique([...($cluster->is_own ? [$this->here->name()] : []), ...$agents]));
    }

    /**
     * @param  array{seconds: int, spaceBytes: int, load: float, partner: string}  $plan
     * @return BaselineRun|null null where it is asked for already
     */
    public function ask(Cluster $cluster, string $host, array $plan, User $user): ?BaselineRun
    {
        $isOpen = BaselineRun::query()->where('cluster_id', $cluster->id)->where('host', $host)
            ->whereIn('state', ['asked', 'sent', 'waiting', 'running'])->get()
            ->contains(static fn (BaselineRun $one): bool => ! $one->isOver() || self::isExpected($one));
        if ($isOpen) {
            return null;
        }
        $kind = match (true) {
            $cluster->connector === 'practice' => 'practice',
            $cluster->is_own && $host === $this->here->name() => 'own',
            default => 'agent',
        };
        $run = BaselineRun::query()->create([
            'cluster_id' => $cluster->id, 'host' => $host, 'plan' => ['kind' => $kind] + $plan, 'state' => $kind === 'agent' ? 'asked'
                : 'waiting',
            'asked_us' => Clock::microseconds(), 'asked_by' => $user->name, 'heartbeat_us' => Clock::microseconds(),
        ]);
        if ($kind !== 'agent') {
            MeasureBaseline::dispatch($run->id);
        } elseif ($plan['partner'] !== '' && in_array($plan['partner'], $this->hosts($cluster), true)) {
            // Another host that has an agent is the other end for it.
            BaselineRun::query()->create(['cluster_id' => $cluster->id, 'host' => $plan['partner'], 'plan' => ['kind' => 'serve'] + $plan,
                'state' => 'asked', 'asked_us' => Clock::microseconds(), 'asked_by' => $user->name,
                'heartbeat_us' => Clock::microseconds()]);
        }

        return $run;
    }

    /**
     * What an agent is told that comes by now.
     *
     * @return array<string, mixed>|null
     */
    public function asked(Cluster $cluster, string $host): ?array
    {
        $run = BaselineRun::query()->where('cluster_id', $cluster->id)->where('host', $host)->where('state', 'asked')->orderBy('id')
            ->first();
        if ($run === null || ! self::isExpected($run)) {
            return null;
        }
        // Of two answers at the same moment one asks.
        $isFirst = BaselineRun::query()->whereKey($run->id)->where('state', 'asked')
            ->update(['state' => $run->plan['kind'] === 'serve' ? 'done' : 'sent', 'heartbeat_us' => Clock::microseconds()]) > 0;

        return $isFirst ? ['id' => $run->id, 'kind' => $run->plan['kind'] === 'serve' ? 'serve' : 'measure',
            'partner' => $run->plan['partner']]
            : null;
    }

    /** What an agent measured counts where it was asked for; what nobody asked for is left. */
    public function handle(HostBaselineSent $sent): void
    {
        $run = BaselineRun::query()->where('cluster_id', $sent->cluster->id)->where('host', $sent->host)->where('state', 'sent')
            ->whereKey(is_int($sent->result['id'] ?? null) ? $sent->result['id'] : 0)->first();
        $run?->forceFill(self::kept($sent->result) + ['state' => 'done'])->save();
    }

    /**
     * @param  array<mixed>  $result as the agent has it
     * @return array<string, mixed> columns
     */
    public static function kept(array $result): array
    {
        $outputs = array_filter(is_array($result['outputs'] ?? null) ? $result['outputs'] : [], is_string(...));
        $notes = array_filter(is_array($result['notes'] ?? null) ? array_values($result['notes']) : [], is_string(...));
        $state = $result['state'] ?? null;

        return [
            'outcome' => in_array($state, ['complete', 'broken off', 'refused'], true) ? $state : 'broken off',
            'at' => is_int($result['at_ms'] ?? null) ? max(0, min(Clock::seconds(), intdiv($result['at_ms'], 1_000))) : Clock::seconds(),
            'values' => ToolText::read($outputs),
            'notes' => array_map(static fn (string $note): string => mb_strcut(mb_scrub($note), 0, 300),
                array_slice($notes, 0, self::NOTES)),
        ];
    }

    /**
     * The last ones that have values, of each host.
     *
     * @return array<string, non-empty-list<BaselineRun>> newest first, by host
     */
    public function measured(Cluster $cluster, int $each = 5): array
    {
        $runs = [];
        foreach (BaselineRun::query()->where('cluster_id', $cluster->id)->where('state', 'done')->whereNotNull('at')->orderByDesc('at')
            ->orderByDesc('id')->limit(1_000)->get() as $run) {
            if (($run->values ?? []) !== [] && count($runs[$run->host] ?? []) < $each) {
                $runs[$run->host][] = $run;
            }
        }
        ksort($runs, SORT_NATURAL);

        return $runs;
    }

    /**
     * @return list<BaselineRun> that are asked for and not over, and those that failed or were refused last
     */
    public function open(Cluster $cluster): array
    {
        return array_values(BaselineRun::query()->where('cluster_id', $cluster->id)->orderByDesc('id')->limit(20)->get()
            ->filter(static fn (BaselineRun $one): bool => $one->plan['kind'] !== 'serve'
                && (in_array($one->state, ['waiting', 'running'], true)
                || self::isExpected($one) || in_array($one->outcome, ['refused', 'broken off'], true) || $one->state === 'failed'))
            ->take(5)->all());
    }

    public static function isExpected(BaselineRun $run): bool
    {
        $age = Clock::microseconds() - $run->asked_us;

        return ($run->state === 'asked' && $age < self::PATIENCE_US) || ($run->state === 'sent' && $age < self::SENT_US);
    }
}
