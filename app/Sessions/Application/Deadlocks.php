<?php

declare(strict_types=1);

namespace App\Sessions\Application;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Sessions\Models\DeadlockRecord;
use Fulcrion\Core\Sessions\Deadlock;
use Fulcrion\Core\Sql\Fingerprinter;

/**
 * Keeps deadlocks as events. A server tells of its last one only, so each is taken down when it is first seen.
 */
final readonly class Deadlocks
{
    public const KEPT_DAYS = 35;

    public function keep(Cluster $cluster, Deadlock $deadlock): void
    {
        $fingerprinter = new Fingerprinter($cluster->dialect);
        $sides = [];
        foreach ($deadlock->sides as $side) {
            $statement = $side->sql === '' ? null : $fingerprinter->of($side->sql);
            $sides[] = [
                'session' => $side->session,
                'user' => $side->user,
                'statement' => $statement->id ?? '',
                'text' => $statement->text ?? '',
                'table' => $side->table,
                'index' => $side->index,
                'mode' => $side->mode,
                'rowLocks' => $side->rowLocks,
                'victim' => $side->victim,
            ];
        }
        DeadlockRecord::query()->firstOrCreate(
            [
                'cluster_id' => $cluster->id,
                'digest' => hash('xxh128', $deadlock->at.'|'.implode(',', array_column($sides, 'session'))),
            ],
            ['seen_us' => Clock::microseconds(), 'server_time' => $deadlock->at, 'sides' => $sides],
        );
    }

    /**
     * @return list<DeadlockRecord> newest first
     */
    public function of(Cluster $cluster, int $sinceUs, int $most = 50): array
    {
        /** @var list<DeadlockRecord> $records */
        $records = DeadlockRecord::query()
            ->where('cluster_id', $cluster->id)
            ->where('seen_us', '>=', $sinceUs)
            ->orderByDesc('seen_us')
            ->limit($most)
            ->get()
            ->all();

        return $records;
    }

    public function prune(): void
    {
        DeadlockRecord::query()->where('seen_us', '<', Clock::microseconds() - self::KEPT_DAYS * 86_400_000_000)->delete();
    }
}
