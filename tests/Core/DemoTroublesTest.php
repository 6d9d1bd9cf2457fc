<?php

declare(strict_types=1);

namespace Tests\Core;

use Fulcrion\Core\Statistics\Spread;
use Fulcrion\Tools\Demo\DemoHistory;
use Fulcrion\Tools\Demo\DemoNodes;
use PHPUnit\Framework\TestCase;

/**
 * What happens to machines and on complaint days of the demo world, and that it happens to nobody else.
 */
final class DemoTroublesTest extends TestCase
{
    /** Saturday, 28 November 2026, 12:00. */
    private const NOW = 1_795_867_200;

    /** Few people, so that what is on schedule stands out. */
    private const SCALE = 0.05;

    /**
     * @return iterable<array<string, mixed>> one by one, as there are many
     */
    private static function records(bool $rehearsal = false, int $now = self::NOW): iterable
    {
        return (new DemoHistory($now, 46, $rehearsal ? 1.0 : self::SCALE, $rehearsal))->records();
    }

    /**
     * @param  array<string, mixed>  $record
     */
    private static function at(array $record): int
    {
        return (int) strtotime((string) $record['started_at']);
    }

    public function test_on_the_thursday_of_week_four_one_statement_reads_thirty_times_as_much(): void
    {
        $complaints = $others = [];
        foreach (self::records() as $one) {
            if (str_starts_with((string) $one['sql'], 'SELECT m.site, sum(m.kwh * t.price) AS heat_cost')) {
                self::assertSame('energy_desk', $one['user']);
                if (str_contains((string) $one['sql'], "'2024-01-01'")) {
                    $complaints[] = $one;
                } else {
                    $others[] = $one;
                }
            }
        }
        self::assertSame(['2026-11-26 11:00', '2026-11-26 11:05', '2026-11-26 11:10'],
            array_map(static fn (array $one): string => gmdate('Y-m-d H:i', self::at($one)), $complaints));
        $usual = Spread::median(array_column($others, 'bytes_scanned'));
        foreach ($complaints as $one) {
            self::assertEqualsWithDelta(30.0, $one['bytes_scanned'] / $usual, 4.0);
            self::assertSame([0, 'ok'], [$one['queued_us'], $one['status'] ?? 'ok']);
        }
        // Nobody else of the desk reads that much on any day.
        self::assertLessThan(2.5 * $usual, max(array_column($others, 'bytes_scanned')));
        // It comes on a Thursday whenever the demo is made, and never twice.
        $days = [];
        foreach (self::records(now: self::NOW + 3 * 86_400) as $one) {
            if (str_contains((string) $one['sql'], "'2024-01-01'")) {
                $days[gmdate('N Y-m-d', self::at($one))] = true;
            }
        }
        self::assertSame(['4 2026-11-26'], array_keys($days));
    }

    public function test_the_collector_of_the_rehearsal_cluster_is_away_for_six_hours_and_only_that_one(): void
    {
        // A Wednesday noon, so that the twentieth day is a working day.
        $now = self::NOW + 4 * 86_400;
        $from = DemoNodes::silentFrom($now);
        self::assertSame('09:00', gmdate('H:i', $from));
        self::assertSame(20, intdiv($from - ($now - $now % 86_400 - 27 * 86_400), 86_400) + 1);
        $seen = ['away' => 0, 'the day before' => 0, 'the hour after' => 0];
        foreach (self::records(true, $now) as $one) {
            $at = self::at($one) - $from;
            $seen['away'] += (int) ($at >= 0 && $at < DemoNodes::SILENT_SECONDS);
            $seen['the day before'] += (int) ($at >= -86_400 && $at < -86_400 + DemoNodes::SILENT_SECONDS);
            $seen['the hour after'] += (int) ($at >= DemoNodes::SILENT_SECONDS && $at < DemoNodes::SILENT_SECONDS + 3_600);
        }
        self::assertSame(0, $seen['away']);
        self::assertGreaterThan(100, $seen['the day before']);
        self::assertGreaterThan(0, $seen['the hour after']);
    }

    public function test_what_is_read_from_disks_takes_longer_since_one_of_them_is_slow_and_dashboards_do_not(): void
    {
        $since = DemoNodes::slowSince(self::NOW);
        self::assertSame('2026-11-22 04:00', gmdate('Y-m-d H:i', $since));
        $costs = [];
        foreach (self::records() as $one) {
            $key = (string) preg_replace("~'[^']*'|\\d+~", '?', (string) $one['sql']);
            $costs[(string) $one['user']][$key][(int) (self::at($one) >= $since)][] = $one['duration_us'] - $one['queued_us'];
        }
        // Of statements that ran often enough before and after: how many times as long, in the middle of all.
        $ratio = static fn (string $user): float => Spread::median(array_map(
            static fn (array $sides): float => Spread::median($sides[1]) / Spread::median($sides[0]),
            array_filter($costs[$user], static fn (array $sides): bool => min(count($sides[0] ?? []), count($sides[1] ?? [])) >= 8),
        ));
        self::assertEqualsWithDelta(1.0, $ratio('boards'), 0.03, 'what is asked every five minutes is in memory');
        self::assertGreaterThan(1.0, $ratio('packhouse'));
        self::assertLessThan(2.0, $ratio('packhouse'));
    }
}
