<?php

declare(strict_types=1);

namespace App\Telemetry\Collect;

use App\Estate\Connectors\DigestReading;
use App\Estate\Connectors\PreparedReading;
use App\Estate\Models\Cluster;
use Fulcrion\Core\Statements\CounterDelta;
use Fulcrion\Core\Statements\UntoldGrowth;
use Illuminate\Support\Facades\DB;

/**
 * The counters of a server as they were read last, against which those of now are held.
 */
final class LastReading
{
    /** Rows that stand for no digest: all executions of prepared statements, and what parts of them are ahead of that. */
    private const PREPARED = 'prepared';

    private const BALANCE = 'prepared-balance';

    /** Rows the server reset since the last reading. */
    public int $resets = 0;

    /** @var list<array<string, int|string>> */
    private array $kept = [];

    /**
     * @param  array<string, array{counters: array<string, int>, born: string}>  $before by key
     */
    private function __construct(private readonly Cluster $cluster, private readonly array $before)
    {
    }

    public static function of(Cluster $cluster): self
    {
        $before = [];
        foreach (DB::table('digest_readings')->where('cluster_id', $cluster->id)->get() as $row) {
            $before[$row->digest] = ['counters' => json_decode($row->counters, true), 'born' => $row->born];
        }

        return new self($cluster, $before);
    }

    /**
     * @param  list<DigestReading>  $readings
     * @return list<Grown>
     */
    public function digests(array $readings): array
    {
        return $this->grown($readings, $this->cluster->polled_at === null);
    }

    /**
     * Open statements by themselves, and those that were closed before they could be read as one.
     *
     * @return list<Grown>
     */
    public function prepared(PreparedReading $prepared, int $nowUs): array
    {
        $knew = isset($this->before[self::PREPARED]);
        $grown = $this->grown($prepared->open, ! $knew);
        $told = [];
        foreach ($grown as $one) {
            foreach ($one->delta as $name => $value) {
                $told[$name] = ($told[$name] ?? 0) + $value;
            }
        }
        $total = $knew ? CounterDelta::of($this->before[self::PREPARED]['counters'], $prepared->total, false, false) : null;
        $untold = UntoldGrowth::of($total ?? [], $told, $this->before[self::BALANCE]['counters'] ?? []);
        $this->remember(self::PREPARED, $prepared->total);
        $this->remember(self::BALANCE, $untold['balance']);
        if ($untold['growth'] !== null) {
            $grown[] = new Grown(
                new DigestReading(self::PREPARED, '', DigestReading::UNTOLD_PREPARED, $prepared->total, 0, 0, '', $nowUs, $nowUs),
                $untold['growth'],
                false,
            );
        }

        return $grown;
    }

    /** What was read now is what the next reading is held against. */
    public function keep(): void
    {
        foreach (array_chunk($this->kept, 500) as $chunk) {
            DB::table('digest_readings')->upsert($chunk, ['cluster_id', 'digest'], ['counters', 'born']);
        }
        // Rows the server forgot are forgotten here too; should they come back, they count from nothing.
        DB::table('digest_readings')
            ->where('cluster_id', $this->cluster->id)
            ->whereNotIn('digest', array_column($this->kept, 'digest'))
            ->delete();
    }

    /**
     * @param  list<DigestReading>  $readings
     * @return list<Grown>
     */
    private function grown(array $readings, bool $isFirst): array
    {
        $grown = [];
        foreach ($readings as $reading) {
            $old = $this->before[$reading->key] ?? null;
            $born = $old !== null && $old['born'] !== $reading->born;
            $this->resets += $born ? 1 : 0;
            $this->remember($reading->key, $reading->counters, $reading->born);
            $delta = CounterDelta::of($old['counters'] ?? null, $reading->counters, $isFirst, $born);
            if ($delta !== null) {
                $grown[] = new Grown($reading, $delta, $old === null || $born);
            }
        }

        return $grown;
    }

    /**
     * @param  array<string, int>  $counters
     */
    private function remember(string $key, array $counters, string $born = ''): void
    {
        $this->kept[] = [
            'cluster_id' => $this->cluster->id, 'digest' => $key, 'counters' => (string) json_encode($counters), 'born' => $born,
        ];
    }
}
