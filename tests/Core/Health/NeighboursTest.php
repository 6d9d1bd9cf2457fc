<?php

declare(strict_types=1);

namespace Tests\Core\Health;

use Fulcrion\Core\Health\Neighbours;
use Fulcrion\Core\Health\Outlier;
use Fulcrion\Core\Statistics\NormalDraw;
use Fulcrion\Core\Statistics\Spread;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class NeighboursTest extends TestCase
{
    private const DAY = 24;

    /**
     * @param  callable(int, int): float  $factor by host and hour
     * @return array<string, list<float>>
     */
    private static function costs(callable $factor, int $hosts = 12, int $days = 28, int $seed = 5): array
    {
        $random = new Randomizer(new Mt19937($seed));
        $normal = static fn (): float => NormalDraw::of($random->getInt(1, 1_000_000) / 1e6, $random->getInt(0, 1_000_000) / 1e6);
        $costs = [];
        for ($host = 0; $host < $hosts; $host++) {
            for ($hour = 0; $hour < $days * self::DAY; $hour++) {
                $costs["fern-{$host}"][] = 3e-9 * (1 + 0.5 * sin($hour / 4)) * exp(0.06 * $normal()) * $factor($host, $hour);
            }
        }

        return $costs;
    }

    public function test_a_host_is_held_against_the_middle_of_the_others(): void
    {
        $random = new Randomizer(new Mt19937(1));
        for ($draw = 0; $draw < 200; $draw++) {
            $costs = [];
            for ($host = 0, $hosts = $random->getInt(4, 9); $host < $hosts; $host++) {
                $costs["h{$host}"] = [$random->getInt(0, 4) === 0 ? null : $random->getInt(1, 6) / 4];
            }
            $differences = Neighbours::of($costs)->differences;
            foreach ($costs as $host => [$own]) {
                $others = [];
                foreach ($costs as $other => [$value]) {
                    if ($other !== $host && $value !== null) {
                        $others[] = log($value);
                    }
                }
                if ($own === null || count($others) < 3) {
                    self::assertNull($differences[$host][0]);
                } else {
                    self::assertEqualsWithDelta(log($own) - Spread::median($others), $differences[$host][0], 1e-12);
                }
            }
        }
    }

    public function test_a_host_that_became_slower_is_named_with_the_hour_it_did_and_nobody_else(): void
    {
        $slow = Neighbours::of(self::costs(static fn (int $host, int $hour): float => $host === 7 && $hour >= 500 ? 1.5 : 1.0))->slow();
        self::assertSame(['fern-7'], array_map(static fn (Outlier $one): string => $one->host, $slow));
        self::assertEqualsWithDelta(1.5, $slow[0]->factor, 0.06);
        self::assertEqualsWithDelta(500, $slow[0]->since, 2);
        self::assertGreaterThan(5.0, $slow[0]->score);
    }

    public function test_a_host_is_named_within_a_day_of_its_change(): void
    {
        $costs = self::costs(static fn (int $host, int $hour): float => $host === 7 && $hour >= 500 ? 2.0 : 1.0);
        $until = static fn (int $hours): array => Neighbours::of(array_map(
            static fn (array $list): array => array_slice($list, 0, $hours),
            $costs,
        ))->slow();
        self::assertSame([], $until(500));
        self::assertSame([], $until(506), 'a few hours are not a day');
        self::assertCount(1, $until(500 + self::DAY));
    }

    public function test_one_that_was_always_slower_has_no_beginning(): void
    {
        [$one] = Neighbours::of(self::costs(static fn (int $host): float => $host === 3 ? 1.6 : 1.0))->slow();
        self::assertSame(['fern-3', null], [$one->host, $one->since]);
        self::assertEqualsWithDelta(1.6, $one->factor, 0.05);
    }

    public function test_what_all_of_them_do_is_nobodys_fault_and_a_fast_one_is_not_slow(): void
    {
        self::assertSame([], Neighbours::of(self::costs(static fn (int $host, int $hour): float => $hour > 300 ? 4.0 : 1.0))->slow());
        self::assertSame([], Neighbours::of(self::costs(static fn (int $host): float => $host === 3 ? 0.5 : 1.0))->slow());
        self::assertSame([], Neighbours::of(self::costs(static fn (int $host): float => $host === 3 ? 1.1 : 1.0))->slow());
        // Hosts of different kinds are not alike, so that one of them stands out no more than the others.
        self::assertSame([], Neighbours::of(self::costs(static fn (int $host): float => 1 + 0.15 * ($host % 4)))->slow());
    }

    public function test_one_that_is_well_again_is_not_named(): void
    {
        $factor = static fn (int $host, int $hour): float => $host === 7 && $hour >= 300 && $hour < 500 ? 2.0 : 1.0;
        self::assertSame([], Neighbours::of(self::costs($factor))->slow());
    }

    public function test_two_sick_hosts_are_both_named_the_worse_one_first(): void
    {
        $factor = static fn (int $host, int $hour): float => match (true) {
            $hour < 400 => 1.0, $host === 2 => 1.6, $host === 9 => 2.5, default => 1.0,
        };
        $slow = Neighbours::of(self::costs($factor))->slow();
        self::assertSame(['fern-9', 'fern-2'], array_map(static fn (Outlier $one): string => $one->host, $slow));
    }

    public function test_too_little_tells_nothing(): void
    {
        self::assertSame([], Neighbours::of([])->slow());
        self::assertSame([], Neighbours::of(['a' => [], 'b' => []])->slow());
        $three = self::costs(static fn (int $host): float => $host === 0 ? 3.0 : 1.0, hosts: 3);
        self::assertSame([], Neighbours::of($three)->slow(), 'of three hosts nobody knows which one is odd');
        // A host that was not known for its last day is not told of as if it were.
        $silent = self::costs(static fn (int $host): float => $host === 3 ? 2.0 : 1.0);
        $silent['fern-3'] = [...array_slice($silent['fern-3'], 0, 27 * self::DAY), ...array_fill(0, self::DAY, null)];
        self::assertSame([], Neighbours::of($silent)->slow());
        // A wild hour now and then is no change.
        $wild = static fn (int $host, int $hour): float => $host === 5 && $hour % 50 === 0 ? 9.0 : 1.0;
        self::assertSame([], Neighbours::of(self::costs($wild))->slow());
    }
}
