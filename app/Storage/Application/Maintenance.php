<?php

declare(strict_types=1);

namespace App\Storage\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\ActorClusters;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SourceError;
use App\Estate\Connectors\TableKeeper;
use App\Estate\Models\Cluster;
use App\Ledger\Ledger;
use App\Platform\Support\Clock;
use App\Storage\Models\MaintenancePlan;
use Cron\CronExpression;
use DateTimeImmutable;
use DateTimeZone;
use Fulcrion\Core\Storage\Compaction;
use Fulcrion\Core\Storage\Overlap;
use Fulcrion\Core\Storage\Reordering;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Storage\TableSteps;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Support\Facades\DB;

/**
 * Runs maintenance schedules.
 */
final readonly class Maintenance
{
    /** Fewer small chunks than this are left to gather. */
    private const LEAST_CHUNKS = 8;

    public function __construct(private Clusters $clusters, private Ledger $ledger)
    {
    }

    public function inHours(MaintenancePlan $plan, int $nowUs): bool
    {
        $hour = (int) gmdate('G', intdiv($nowUs, 1_000_000));

        return $plan->hours_from <= $plan->hours_to
            ? $hour >= $plan->hours_from && $hour < $plan->hours_to
            : $hour >= $plan->hours_from || $hour < $plan->hours_to;
    }

    /**
     * Why something is to be done now, by act; empty for nothing.
     *
     * @return array<string, string>
     */
    public function due(MaintenancePlan $plan, TableLayout $table, int $nowUs): array
    {
        $due = [];
        if ($plan->cron !== null) {
            $last = new DateTimeImmutable('@'.intdiv($plan->checked_us ?? $nowUs, 1_000_000));
            $next = (new CronExpression($plan->cron))->getNextRunDate($last, 0, false, 'UTC');
            if ($next->getTimestamp() > intdiv($nowUs, 1_000_000)) {
                return [];
            }
            foreach ($plan->acts as $act) {
                $due[$act] = 'scheduled for '.moment($next, zone: new DateTimeZone('UTC')).' UTC';
            }

            return $due;
        }
        $limits = $plan->thresholds + MaintenancePlan::THRESHOLDS;
        foreach ($plan->acts as $act) {
            $why = match ($act) {
                'compact' => $this->tooSmall($table, (float) $limits['small']),
                'sort' => $this->tooDeep($table, (float) $limits['depth']),
                'statistics' => $table->statistics->changedShare > $limits['changed']
                    ? Quantity::percent($table->statistics->changedShare).' of the rows changed since statistics were collected'
                    : null,
                'expire' => array_filter(
                    $table->history->versions,
                    static fn (array $version): bool => $version['writtenUs'] < $nowUs - $plan->expire_days * 86_400_000_000,
                ) !== [] && count($table->history->versions) + 1 > $plan->keep
                    ? "versions are older than {$plan->expire_days} days"
                    : null,
                'sweep' => $table->history->orphanFiles > 0 ? "{$table->history->orphanFiles} files belong to no version" : null,
                default => null,
            };
            if ($why !== null) {
                $due[$act] = $why;
            }
        }

        return $due;
    }

    /** Runs all that is due on a cluster. */
    public function all(Cluster $cluster): int
    {
        $keeper = $this->reach()->keeper($cluster);
        /** @var list<MaintenancePlan> $plans */
        $plans = MaintenancePlan::query()->where('cluster_id', $cluster->id)->where('paused', false)->get()->all();
        if ($keeper === null || $plans === []) {
            return 0;
        }
        $ran = 0;
        foreach ($plans as $plan) {
            $now = Clock::microseconds();
            $table = $this->inHours($plan, $now) ? $this->reach()->layouts($cluster)?->layout($plan->object) : null;
            if ($table === null) {
                continue;
            }
            $due = $this->due($plan, $table, $now);
            if ($due !== []) {
                $this->run($plan, $table, $keeper, $due, false);
                $ran++;
            }
            $plan->update(['checked_us' => $now]);
        }

        return $ran;
    }

    private function reach(): ActorClusters
    {
        return $this->clusters->as(Actor::system(SystemActor::Maintenance, 'a maintenance schedule'));
    }

    /**
     * All acts of a schedule at once, whatever it says; or dry, to see what would be done.
     *
     * @return int number of the run in the log
     *
     * @throws SourceError
     */
    public function now(MaintenancePlan $plan, string $by, bool $dry): int
    {
        $keeper = $this->reach()->keeper($plan->cluster);
        $table = $this->reach()->layouts($plan->cluster)?->layout($plan->object);
        if ($keeper === null || $table === null) {
            throw new SourceError("There is no table {$plan->object} any more.");
        }

        return $this->run($plan, $table, $keeper, array_fill_keys($plan->acts, "asked for by {$by}"), $dry);
    }

    /**
     * @param  array<string, string>  $due act => why
     * @return int number of the run in the log
     */
    public function run(MaintenancePlan $plan, TableLayout $table, TableKeeper $keeper, array $due, bool $dry): int
    {
        $id = DB::table('maintenance_runs')->insertGetId([
            'plan_id' => $plan->id,
            'started_us' => Clock::microseconds(),
            'dry' => $dry,
            'why' => mb_strcut(implode('; ', array_unique($due)), 0, 200),
            'log' => '[]',
            'chunks_before' => count($table->chunks),
            'bytes_before' => $table->bytes(),
        ]);
        $log = [];
        $error = null;
        foreach (array_intersect(array_keys(MaintenancePlan::ACTS), array_keys($due)) as $act) {
            try {
                $log[] = [$act, $dry ? $this->wouldDo($act, $plan, $table) : $this->act($act, $plan, $table, $keeper)];
            } catch (SourceError $failed) {
                $error = $failed->getMessage();
                $log[] = [$act, "failed: {$error}"];
                break;
            }
        }
        $after = $this->reach()->layouts($plan->cluster)?->layout($plan->object) ?? null;
        DB::table('maintenance_runs')
            ->where('id', $id)
            ->update([
                'ended_us' => Clock::microseconds(),
                'log' => json_encode($log, JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE),
                'chunks_after' => $after === null ? null : count($after->chunks),
                'bytes_after' => $after?->bytes(),
                'error' => $error,
            ]);
        if (! $dry) {
            $this->ledger->record(null, 'maintenance', $plan->object, [
                'cluster' => $plan->cluster->slug,
                'did' => implode('; ', array_map(static fn (array $one): string => $one[1], $log)),
            ]);
        }

        return $id;
    }

    private function act(string $act, MaintenancePlan $plan, TableLayout $table, TableKeeper $keeper): string
    {
        $path = TableSteps::path($table->name);
        $columns = array_map(strval(...), array_keys($table->statistics->columns));

        return $keeper->apply(
            match ($act) {
                'statistics' => "ANALYZE TABLE {$path}".($columns === [] ? '' : ' ('.implode(', ', $columns).')'),
                'expire' => "MAINTAIN TABLE {$path} WITH (action = expire, days = {$plan->expire_days}, keep = {$plan->keep})",
                default => "MAINTAIN TABLE {$path} WITH (action = {$act})",
            },
            static fn (): bool => false,
        );
    }

    private function wouldDo(string $act, MaintenancePlan $plan, TableLayout $table): string
    {
        $compaction = Compaction::of($table);
        $order = Reordering::of($table);

        return match ($act) {
            'compact' => Quantity::count($compaction->chunksRead).
                ' chunks with '.
                Quantity::bytes($compaction->bytesRewritten * $table->rowFactor).
                ' would become '.
                Quantity::count($compaction->chunksAfter),
            'sort' => Quantity::count($order->chunks).
                ' chunks with '.
                Quantity::bytes($order->bytes * $table->rowFactor).
                ' would be sorted; the other '.
                Quantity::count(count($table->chunks) - $order->chunks).
                ' stay',
            'statistics' => 'statistics of '.count($table->statistics->columns).' columns would be collected',
            'expire' => count($table->history->versions).
                " old versions are there; those older than {$plan->expire_days} days would go, the latest {$plan->keep} stay",
            default => "{$table->history->orphanFiles} files would go",
        };
    }

    private function tooSmall(TableLayout $table, float $share): ?string
    {
        $saved = Compaction::of($table)->chunksSaved();

        return $saved >= self::LEAST_CHUNKS && $saved > $share * count($table->chunks)
            ? Quantity::count($saved).' of '.Quantity::count(count($table->chunks)).' chunks are too small'
            : null;
    }

    /** Depth is that of a node: chunks of several nodes always lie over each other. */
    private function tooDeep(TableLayout $table, float $depth): ?string
    {
        $column = $table->definition->clustering[0] ?? null;
        $order = Reordering::of($table);
        if ($column === null || $order->chunks === 0) {
            return null;
        }
        $deepest = 0.0;
        for ($node = 0; $node < $table->nodes; $node++) {
            $deepest = max($deepest, Overlap::of($table, $column, $node)->maxDepth);
        }

        return $deepest > $depth ? "up to {$deepest} chunks of a node lie over a point of {$column}" : null;
    }
}
