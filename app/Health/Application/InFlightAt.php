<?php

declare(strict_types=1);

namespace App\Health\Application;

use App\Estate\Models\Cluster;
use App\Telemetry\Store\SampleSeal;
use Illuminate\Contracts\Encryption\Encrypter;
use Illuminate\Support\Facades\DB;

/**
 * Which executions were in flight in the minute of a moment, or for longer, as far as they are kept one by one: of each statement and hour
 * the slowest and a few others. What is told of them holds no literal.
 */
final readonly class InFlightAt
{
    private const HOUR = 3_600;

    /** What began longer before is not looked for. */
    private const BEFORE = 2 * 86_400;

    private const MOST = 200;

    /** Moments are told by the minute. */
    public const MINUTE = 60;

    public function __construct(private Encrypter $encrypter)
    {
    }

    /**
     * @return list<InFlight> the longest first
     */
    public function of(Cluster $cluster, int $at, int $seconds = self::MINUTE): array
    {
        $found = [];
        [$fromUs, $toUs] = [$at * 1_000_000, ($at + $seconds) * 1_000_000];
        foreach (DB::table('samples as s')->join('statements as t', 't.id', '=', 's.statement_id')->where('s.cluster_id', $cluster->id)
            ->where('s.hour_at', '>', $at - self::BEFORE)->where('s.hour_at', '<', $at + $seconds)
            ->whereRaw('(s.hour_at + ?) * 1000000 + s.slowest_us > ?', [self::HOUR, $fromUs])
            ->orderBy('s.statement_id')->get(['s.sealed', 't.fingerprint', 't.text']) as $row) {
            foreach (SampleSeal::open($this->encrypter, (string) $row->sealed) as $one) {
                $number = static fn (string $name): int => is_numeric($one[$name] ?? null) ? (int) $one[$name] : 0;
                $started = $number('started_at_us');
                if ($started < $toUs && $started + $number('duration_us') > $fromUs) {
                    $found["{$row->fingerprint} {$started}"] = new InFlight(
                        (string) $row->fingerprint,
                        (string) $row->text,
                        is_string($one['user'] ?? null) ? $one['user'] : '',
                        $started,
                        $number('duration_us'),
                        $number('queued_us'),
                        $number('bytes_scanned'),
                    );
                }
            }
        }
        usort($found, static fn (InFlight $a, InFlight $b): int => $b->durationUs <=> $a->durationUs);

        return array_slice($found, 0, self::MOST);
    }
}
