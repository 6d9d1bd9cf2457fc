<?php

declare(strict_types=1);

namespace Tests\Core\Capacity;

use Fulcrion\Core\Capacity\Outage;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Statements second by second, some of them while nobody is answered: what is found of it from five minutes each.
 */
final class OutageOracleTest extends TestCase
{
    private const INTERVAL = 300;

    private const SPAN = 6 * 3_600;

    /** So little of an interval at either end may look like chance, by how few statements there are. */
    private const UNSEEN = 60;

    /**
     * @return iterable<string, array{int, int}> seconds it lasts, statements a minute
     */
    public static function outages(): iterable
    {
        foreach ([[240, 60], [300, 30], [720, 20], [720, 60], [1_800, 10], [5_400, 6]] as [$seconds, $minute]) {
            yield "{$seconds} s at {$minute} a minute" => [$seconds, $minute];
        }
    }

    #[DataProvider('outages')]
    public function test_its_length_is_about_right_wherever_it_begins(int $seconds, int $perMinute): void
    {
        $random = new Randomizer(new Mt19937($seconds + $perMinute));
        $errors = [];
        for ($run = 0; $run < 25; $run++) {
            $from = $random->getInt(3_600, 2 * 3_600);
            [$statements, $probes] = $this->play($random, $perMinute, $from, $from + $seconds);
            $found = Outage::find($statements, $probes, self::INTERVAL);
            self::assertCount(1, $found, "from second {$from}");
            self::assertLessThanOrEqual($from + self::UNSEEN, $found[0]->from);
            self::assertGreaterThanOrEqual($from + $seconds - self::UNSEEN, $found[0]->to);
            $errors[] = $found[0]->seconds - $seconds;
        }
        self::assertLessThan(0.25 * $seconds + 75, max(array_map(abs(...), $errors)));
        self::assertEqualsWithDelta(0.0, array_sum($errors) / count($errors), 25.0, 'neither too short nor too long on the whole');
    }

    public function test_two_outages_with_work_between_are_two(): void
    {
        $random = new Randomizer(new Mt19937(4));
        [$statements] = $this->play($random, 40, 3_600, 4_200, 6_000, 6_900);
        $found = Outage::find($statements, [], self::INTERVAL);
        self::assertCount(2, $found);
        self::assertEqualsWithDelta(600.0, $found[0]->seconds, 60.0);
        self::assertEqualsWithDelta(900.0, $found[1]->seconds, 90.0);
    }

    public function test_one_broken_job_beside_others_is_no_outage(): void
    {
        $random = new Randomizer(new Mt19937(6));
        for ($run = 0; $run < 20; $run++) {
            $statements = [];
            for ($at = 0; $at < self::SPAN; $at += self::INTERVAL) {
                // A job that fails all the time is every fifth statement.
                $jobs = $random->getInt(2, 10);
                $statements[$at] = ['executions' => 5 * $jobs, 'failed' => $jobs];
            }
            self::assertSame([], Outage::find($statements, [], self::INTERVAL));
        }
    }

    public function test_the_order_of_what_comes_in_changes_nothing(): void
    {
        [$statements, $probes] = $this->play(new Randomizer(new Mt19937(9)), 30, 5_000, 6_500);
        $straight = Outage::find($statements, $probes, self::INTERVAL);
        self::assertEquals($straight, Outage::find(array_reverse($statements, true), array_reverse($probes, true), self::INTERVAL));
        self::assertNotSame([], $straight);
    }

    public function test_a_night_without_statements_is_told_by_its_probe(): void
    {
        $probes = [];
        for ($at = 10; $at < self::SPAN; $at += 300) {
            $probes[$at] = $at < 7_200 || $at >= 9_000;
        }
        $found = Outage::find([], $probes, self::INTERVAL);
        self::assertCount(1, $found);
        self::assertSame([7_200, 9_000, 1_800.0, 6], [$found[0]->from, $found[0]->to, $found[0]->seconds, $found[0]->probes]);
    }

    /**
     * @return array{array<int, array{executions: int, failed: int}>, array<int, bool>}
     */
    private function play(Randomizer $random, int $perMinute, int ...$edges): array
    {
        $statements = $probes = [];
        $isOut = static function (int $second) use ($edges): bool {
            foreach (array_chunk($edges, 2) as [$from, $to]) {
                if ($second >= $from && $second < $to) {
                    return true;
                }
            }

            return false;
        };
        for ($second = 0; $second < self::SPAN; $second++) {
            if ($random->getInt(1, 60) <= $perMinute) {
                $at = $second - $second % self::INTERVAL;
                $statements[$at] ??= ['executions' => 0, 'failed' => 0];
                $statements[$at]['executions']++;
                $statements[$at]['failed'] += (int) ($isOut($second) || $random->getInt(1, 500) === 1);
            }
            if ($second % 300 === 0) {
                $probes[$second] = ! $isOut($second);
            }
        }

        return [$statements, $probes];
    }
}
