<?php

declare(strict_types=1);

namespace Tests\Core;

use Fulcrion\Tools\Demo\DemoHistory;
use Fulcrion\Tools\Demo\LegacyNights;
use PHPUnit\Framework\TestCase;

/**
 * The service account of the demo world that writes what nobody reads.
 */
final class DemoNightsTest extends TestCase
{
    private const NOW = 1_795_860_000;

    /**
     * @return list<array<string, mixed>&array{at: int}>
     */
    private static function day(LegacyNights $nights, int $day): array
    {
        $records = [];
        for ($slot = 0; $slot < 86_400; $slot += 300) {
            array_push($records, ...$nights->of(20_000 * 86_400 + $slot, $day));
        }

        return $records;
    }

    public function test_ninety_a_night_and_somebody_looks_until_the_eighth_day(): void
    {
        foreach ([1 => 3, 8 => 3, 9 => 0, 28 => 0] as $day => $looks) {
            $records = self::day(new LegacyNights(), $day);
            $users = array_count_values(array_column($records, 'user'));
            self::assertSame(90, $users[LegacyNights::ACCOUNT], "day {$day}");
            self::assertSame($looks, $users['agronomy'] ?? 0, "day {$day}");
            foreach ($records as $record) {
                self::assertStringContainsString(LegacyNights::TABLE, (string) $record['sql']);
                $hour = intdiv($record['at'], 1_000_000) % 86_400 / 3_600;
                $isNight = $record['user'] === LegacyNights::ACCOUNT;
                self::assertTrue($isNight ? $hour >= 1.25 && $hour < 2.8 : $hour >= 7.0 && $hour < 8.6, (string) $hour);
                self::assertSame($isNight, str_starts_with((string) $record['sql'], 'INSERT INTO '));
                self::assertEqualsWithDelta($isNight ? 5_200_000 : 240_000, $record['duration_us'], $isNight ? 1_900_000 : 90_000);
            }
        }
        // The same seed gives the same nights, another seed others.
        self::assertSame(self::day(new LegacyNights(), 3), self::day(new LegacyNights(), 3));
        self::assertNotSame(self::day(new LegacyNights(), 3), self::day(new LegacyNights(17), 3));
    }

    public function test_nothing_else_of_the_world_changes_by_it_and_all_stands_in_order(): void
    {
        $users = [];
        $last = '';
        $bays = [];
        foreach ((new DemoHistory(self::NOW, 46, 0.02))->records() as $record) {
            $users[$record['user']] = ($users[$record['user']] ?? 0) + 1;
            self::assertGreaterThanOrEqual($last, $record['started_at']);
            $last = $record['started_at'];
            if ($record['user'] === LegacyNights::ACCOUNT && preg_match('~bay_id = (\d+)~', (string) $record['sql'], $match) === 1) {
                $bays[(int) $match[1]] = true;
            }
        }
        // Up to 28 nights, of which the last may not be over.
        self::assertGreaterThanOrEqual(27 * 90, $users[LegacyNights::ACCOUNT]);
        self::assertLessThanOrEqual(28 * 90, $users[LegacyNights::ACCOUNT]);
        self::assertSame(range(1, 90), array_values(array_intersect(range(1, 90), array_keys($bays))));
        // The smaller copy of the world does not have it.
        foreach ((new DemoHistory(self::NOW, 47, 0.02, true))->records() as $record) {
            self::assertNotSame(LegacyNights::ACCOUNT, $record['user']);
        }
    }
}
