<?php

declare(strict_types=1);

namespace Tests\Core\Health;

use Fulcrion\Core\Health\LoadRow;
use Fulcrion\Core\Health\Work;
use Fulcrion\Core\Health\WorkInFlight;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class WorkInFlightTest extends TestCase
{
    public function test_what_an_execution_reads_is_spread_over_the_time_it_was_in_flight(): void
    {
        $flight = new WorkInFlight();
        // Ten minutes, told where it began; the first interval has two of them, the last one three.
        $first = $flight->next([new LoadRow(7, 1, 600_000_000, 120_000_000, 20_000_000, 50_000_000, 1_000, 100)]);
        self::assertEquals([new Work(7, 100_000_000.0, 50_000_000.0, 200.0, 20.0)], $first);
        $second = $flight->next([new LoadRow(7, 1, 0, 300_000_000, 0, 0, 0, 0), new LoadRow(7, 2, 1_000, 1_000, 0, 0, 40, 0)]);
        self::assertSame([500.0, 40.0], [$second[0]->bytesRead, $second[1]->bytesRead], 'each origin by itself');
        $third = $flight->next([new LoadRow(7, 1, 0, 179_999_999, 0, 0, 0, 0)]);
        self::assertEqualsWithDelta(300.0, $third[0]->bytesRead, 1e-9, 'a microsecond that rounding took is no matter');
        self::assertEqualsWithDelta(30.0, $third[0]->bytesSpilled, 1e-9);
        self::assertSame(0.0, $flight->next([new LoadRow(7, 1, 0, 1, 0, 0, 0, 0)])[0]->bytesRead, 'nothing is left');
    }

    public function test_nothing_is_lost_and_nothing_is_added(): void
    {
        $random = new Randomizer(new Mt19937(4));
        for ($draw = 0; $draw < 50; $draw++) {
            // Executions begin anywhere in an hour and last up to half of one; intervals have five minutes.
            $rows = $expected = [];
            for ($i = 0; $i < 40; $i++) {
                [$statement, $began, $us] = [$random->getInt(1, 5), $random->getInt(0, 3_599), $random->getInt(1, 1_800) * 1_000_000];
                $bytes = $random->getInt(0, 1_000_000_000);
                $expected[$statement] = ($expected[$statement] ?? 0) + $bytes;
                for ($at = intdiv($began, 300); $at * 300 < $began + $us / 1e6; $at++) {
                    $load = (int) (1e6 * (min(($at + 1) * 300, $began + $us / 1e6) - max($at * 300, $began)));
                    $isFirst = $at === intdiv($began, 300);
                    [$durations, $loads, $reads] = $rows[$at][$statement] ?? [0, 0, 0];
                    $rows[$at][$statement] = [$durations + ($isFirst ? $us : 0), $loads + $load, $reads + ($isFirst ? $bytes : 0)];
                }
            }
            $flight = new WorkInFlight();
            $found = [];
            for ($at = 0; $at < 24; $at++) {
                $interval = [];
                foreach ($rows[$at] ?? [] as $statement => [$us, $load, $bytes]) {
                    $interval[] = new LoadRow($statement, 1, $us, $load, 0, 0, $bytes, 0);
                }
                foreach ($flight->next($interval) as $work) {
                    self::assertGreaterThanOrEqual(0.0, $work->bytesRead);
                    $found[$work->statement] = ($found[$work->statement] ?? 0.0) + $work->bytesRead;
                }
            }
            foreach ($expected as $statement => $bytes) {
                self::assertEqualsWithDelta($bytes, $found[$statement], 1e-3 + 1e-6 * $bytes);
            }
        }
    }
}
