<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Demo;

use Fulcrion\Core\Statistics\NormalDraw;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Trouble 16: a service account of nobody's that writes how much water each bay took, 90 times a night, though the last one who looked
 * at it has not come back since the ninth day. It draws from a source of its own, so that nothing else changes by it.
 */
final class LegacyNights
{
    public const ACCOUNT = 'ops_legacy';

    public const TABLE = 'field.water_night';

    /** First day on which nobody reads. */
    public const UNREAD_SINCE_DAY = 9;

    private const NIGHTLY = 90;

    /** Minute of the day its nights begin. */
    private const BEGINS = 75;

    /** Minutes of the day somebody used to look. */
    private const LOOKS = [425, 450, 505];

    private readonly Randomizer $random;

    public function __construct(int $seed = 16)
    {
        $this->random = new Randomizer(new Mt19937($seed));
    }

    /**
     * @param  int  $slot start of five minutes, in Unix seconds
     * @param  int  $day of the history, from 1
     * @return list<array<string, mixed>&array{at: int}>
     */
    public function of(int $slot, int $day): array
    {
        $records = [];
        $first = intdiv($slot % 86_400, 60);
        for ($minute = $first; $minute < $first + 5; $minute++) {
            $at = ($slot + ($minute - $first) * 60) * 1_000_000 + $this->random->getInt(0, 9_000_000);
            if ($minute >= self::BEGINS && $minute < self::BEGINS + self::NIGHTLY) {
                $bay = $minute - self::BEGINS + 1;
                $records[] = $this->record($at, 5_200_000, self::ACCOUNT, 'night-batch', 'host-old-2', [
                    'sql' => 'INSERT INTO '.self::TABLE." SELECT bay_id, date_trunc('day', started_at), sum(litres) FROM "
                        ."field.irrigation_event WHERE bay_id = {$bay} AND started_at >= date '".gmdate('Y-m-d', $slot - 86_400)
                        ."' GROUP BY bay_id, date_trunc('day', started_at)",
                    'rows_returned' => 0, 'rows_examined' => 80_000, 'rows_affected' => 2, 'bytes_scanned' => 220 * 1_048_576,
                ]);
            }
            if ($day < self::UNREAD_SINCE_DAY && in_array($minute, self::LOOKS, true)) {
                $records[] = $this->record($at, 240_000, 'agronomy', 'bay-notes', 'desk-fern-02', [
                    'sql' => 'SELECT bay_id, litres FROM '.self::TABLE." WHERE day = date '".gmdate('Y-m-d', $slot - 86_400)
                        ."' ORDER BY litres DESC",
                    'rows_returned' => 90, 'rows_examined' => 2_000, 'rows_affected' => 0, 'bytes_scanned' => 2 * 1_048_576,
                ]);
            }
        }

        return $records;
    }

    /**
     * @param  array<string, int|string>  $more
     * @return array<string, mixed>&array{at: int}
     */
    private function record(int $at, int $usualUs, string $user, string $application, string $host, array $more): array
    {
        $uniform = fn (): float => $this->random->getInt(1, 1_000_000) / 1_000_001;
        $us = max(300, (int) ($usualUs * exp(0.06 * NormalDraw::of($uniform(), $uniform()))));

        return [
            'at' => $at, 'duration_us' => $us, 'database' => 'field', 'user' => $user, 'application' => $application,
            'client_host' => $host, 'queue' => $user === self::ACCOUNT ? 'night' : 'shared', 'bytes_spilled' => 0, 'queued_us' => 0,
            'lock_us' => 0, 'cpu_us' => (int) ($us * 0.6), 'full_scan' => false,
        ] + $more;
    }
}
