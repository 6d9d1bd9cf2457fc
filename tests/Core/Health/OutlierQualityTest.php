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

/**
 * A few of the clusters the bench has a thousand of, and what a change of a limit would show.
 */
final class OutlierQualityTest extends TestCase
{
    private const HOURS = 14 * 24;

    private Randomizer $random;

    protected function setUp(): void
    {
        $this->random = new Randomizer(new Mt19937(6));
    }

    private function normal(): float
    {
        return NormalDraw::of($this->random->getInt(1, 1_000_000) / 1e6, $this->random->getInt(0, 1_000_000) / 1e6);
    }

    /**
     * @return array<string, list<float|null>> hosts that differ a little for good, with noise, and one that is sick from hour 200 on
     */
    private function cluster(float $factor, int $hosts = 12, float $unlike = 0.05): array
    {
        $costs = [];
        for ($host = 0; $host < $hosts; $host++) {
            $own = $unlike * $this->normal();
            for ($hour = 0; $hour < self::HOURS; $hour++) {
                $costs["h{$host}"][] = $this->random->getInt(0, 30) === 0 ? null
                    : exp($own + 0.1 * $this->normal() + ($host === 4 && $hour >= 200 ? log($factor) : 0.0));
            }
        }

        return $costs;
    }

    /**
     * @return list<string>
     */
    private static function named(Neighbours $neighbours): array
    {
        return array_map(static fn (Outlier $one): string => $one->host, $neighbours->slow());
    }

    public function test_the_sick_one_is_named_in_each_of_forty_clusters_and_nobody_else_in_any(): void
    {
        $since = $factors = [];
        for ($i = 0; $i < 40; $i++) {
            $neighbours = Neighbours::of($this->cluster(1.5 + $i / 80));
            self::assertSame(['h4'], self::named($neighbours), "cluster {$i}");
            $since[] = abs(($neighbours->slow()[0]->since ?? 0) - 200);
            $factors[] = $neighbours->slow()[0]->factor / (1.5 + $i / 80);
            self::assertSame([], self::named(Neighbours::of($this->cluster(1.0))), "healthy cluster {$i}");
        }
        // The hour is told to within two in the middle, and the factor to a few in a hundred.
        self::assertLessThanOrEqual(2, Spread::median($since));
        self::assertEqualsWithDelta(1.0, Spread::median($factors), 0.05);
    }

    public function test_a_change_of_a_tenth_is_nobodys_business_and_one_of_a_third_is(): void
    {
        $count = 0;
        for ($i = 0; $i < 20; $i++) {
            self::assertSame([], self::named(Neighbours::of($this->cluster(1.1))), "cluster {$i}");
            $count += count(self::named(Neighbours::of($this->cluster(1.35))));
        }
        self::assertGreaterThanOrEqual(19, $count);
    }

    public function test_hosts_that_are_unlike_for_good_are_not_sick_and_one_that_changes_among_them_is(): void
    {
        for ($i = 0; $i < 10; $i++) {
            self::assertNotContains('h4', self::named(Neighbours::of($this->cluster(1.0, 12, 0.15))));
            self::assertContains('h4', self::named(Neighbours::of($this->cluster(1.8, 12, 0.15))));
        }
    }

    public function test_four_hosts_are_enough_and_scores_are_units_of_how_neighbours_differ(): void
    {
        self::assertSame(['h4'], self::named(Neighbours::of($this->cluster(2.0, 5))));
        // Without any noise the least spread of a fortieth is the unit: a doubling is 0.693 / 0.025.
        $even = [];
        for ($host = 0; $host < 6; $host++) {
            $even["h{$host}"] = array_fill(0, 10 * 24, $host === 4 ? 2.0 : 1.0);
        }
        [$one] = Neighbours::of($even)->slow();
        self::assertEqualsWithDelta(log(2) / 0.025, $one->score, 1e-9);
        self::assertEqualsWithDelta(2.0, $one->factor, 1e-9);
        self::assertNull($one->since);
        // A third more without a change, and a little less than that.
        $even['h4'] = array_fill(0, 10 * 24, exp(0.281));
        self::assertSame(['h4'], self::named(Neighbours::of($even)));
        $even['h4'] = array_fill(0, 10 * 24, exp(0.279));
        self::assertSame([], self::named(Neighbours::of($even)));
        // A fifth more with one, and a little less than that.
        $even['h4'] = [...array_fill(0, 5 * 24, 1.0), ...array_fill(0, 5 * 24, exp(0.181))];
        self::assertSame([120], array_map(static fn (Outlier $each): ?int => $each->since, Neighbours::of($even)->slow()));
        $even['h4'] = [...array_fill(0, 5 * 24, 1.0), ...array_fill(0, 5 * 24, exp(0.179))];
        self::assertSame([], self::named(Neighbours::of($even)));
        // Two days before a change are too few to know what was usual, and it is not apart enough without.
        $even['h4'] = [...array_fill(0, 2 * 24, 1.0), ...array_fill(0, 8 * 24, exp(0.2))];
        self::assertSame([], self::named(Neighbours::of($even)));
    }

    public function test_a_day_needs_six_hours_that_are_known(): void
    {
        $even = [];
        for ($host = 0; $host < 6; $host++) {
            $even["h{$host}"] = array_fill(0, 10 * 24, $host === 4 ? 2.0 : 1.0);
        }
        $last = static fn (int $known): array => [
            ...array_fill(0, 9 * 24, 2.0), ...array_fill(0, 24 - $known, null), ...array_fill(0, $known, 2.0),
        ];
        $even['h4'] = $last(5);
        self::assertSame([], self::named(Neighbours::of($even)));
        $even['h4'] = $last(6);
        self::assertSame(['h4'], self::named(Neighbours::of($even)));
        // Costs of nothing, and below it, are none.
        $even['h4'] = [...array_fill(0, 9 * 24, 2.0), ...array_fill(0, 24, 0.0)];
        self::assertSame([], self::named(Neighbours::of($even)));
    }
}
