<?php

declare(strict_types=1);

namespace Tests\Practice;

use Fulcrion\Core\Plans\PlanRules;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Tools\Demo\DemoMeasurement;
use Fulcrion\Tools\Demo\PracticeWorld;
use Fulcrion\Tools\Demo\Repertoire;
use PHPUnit\Framework\TestCase;

/**
 * The troubles that lie in the data of the demo are named by the rules on the statements that suffer from them, and on
 * no other.
 */
final class DemoTroublesTest extends TestCase
{
    private const NOW = 1_795_420_800_000_000;

    private static string $root;

    private static Warehouse $warehouse;

    /** @var array<string, list<array{string, string, string}>> rule => statement, table it is about, problem */
    private static array $found = [];

    /** @var list<string> every statement that was run */
    private static array $ran = [];

    public static function setUpBeforeClass(): void
    {
        self::$root = sys_get_temp_dir().'/fulcrion-demo-'.bin2hex(random_bytes(4));
        self::$warehouse = (new PracticeWorld(self::NOW, 0.12))->build(self::$root, 'Fernhill', 12, 8333);
        $measurement = new DemoMeasurement(self::$warehouse, self::NOW);
        $rules = new PlanRules();
        foreach (Repertoire::all() as $statement) {
            $one = $statement->trouble === Repertoire::CROSS_JOIN ? null : $measurement->one($statement);
            if ($one === null) {
                continue;
            }
            self::$ran[] = $statement->template;
            foreach ($rules->check($one[2]) as $finding) {
                self::$found[$finding->rule][] = [$statement->template, $finding->step->table->name ?? '', $finding->problem];
            }
        }
    }

    public static function tearDownAfterClass(): void
    {
        self::$warehouse->destroy();
    }

    public function test_trouble_3_the_skewed_table_is_named_where_much_of_it_is_read_and_no_other_table(): void
    {
        $found = self::$found['skewed-node'] ?? [];
        self::assertNotSame([], $found);
        foreach ($found as [$sql, $table, $problem]) {
            self::assertSame('field.harvest_pick', $table, "{$problem}: {$sql}");
        }
        self::assertContains('SELECT count(*) FROM field.harvest_pick', array_column($found, 0));
    }

    public function test_trouble_7_missing_statistics_are_named_on_exactly_the_statements_that_read_the_table(): void
    {
        $reading = array_values(
            array_filter(self::$ran, static fn (string $sql): bool => preg_match('~(FROM|JOIN) trade\.price_offer\b~', $sql) === 1),
        );
        $named = array_values(array_unique(array_column(self::$found['no-statistics'] ?? [], 0)));
        sort($reading);
        sort($named);
        self::assertSame($reading, $named);
        self::assertSame(['trade.price_offer'], array_values(array_unique(array_column(self::$found['no-statistics'], 1))));
        self::assertSame(['trade.pallet_shipment'], array_values(array_unique(array_column(self::$found['stale-statistics'] ?? [], 1))));
    }

    public function test_trouble_14_the_wrapped_partition_column_is_named_on_its_statement_only(): void
    {
        $found = self::$found['wrapped-column'] ?? [];
        self::assertCount(1, $found);
        self::assertStringContainsString('cast(read_at AS date) = date', $found[0][0]);
        self::assertStringContainsString('partition column read_at of field.climate_reading', $found[0][2]);
    }

    public function test_trouble_15_the_join_that_only_filters_is_named_on_its_statement_only(): void
    {
        $found = self::$found['filter-only-join'] ?? [];
        self::assertCount(1, $found);
        self::assertStringContainsString('JOIN ref.calendar_day c ON c.day = cast(r.read_at AS date)', $found[0][0]);
        self::assertSame('ref.calendar_day is joined only to filter field.climate_reading', $found[0][2]);
    }

    public function test_the_other_troubles_lie_in_the_layout(): void
    {
        $manifest = static fn (string $schema, string $table) => self::$warehouse->table($schema, $table)?->manifest() ?? self::fail();
        $nodes = $manifest('field', 'harvest_pick')->rowsByNode(12);
        self::assertEqualsWithDelta(0.7, max($nodes) / array_sum($nodes), 0.03);
        self::assertSame(216, $manifest('ref', 'calendar_day')->partitionCount());
        self::assertSame(4000, $manifest('ref', 'calendar_day')->rows());
        self::assertSame('copy', $manifest('trade', 'pallet_shipment')->definition->distribution->kind);
        $climate = $manifest('field', 'climate_reading');
        self::assertGreaterThan(400, count($climate->chunks));
        $overlaps = 0;
        foreach (array_slice($climate->chunks, 1) as $i => $chunk) {
            $overlaps += $chunk->zones[2]->min < $climate->chunks[$i]->zones[2]->max ? 1 : 0;
        }
        self::assertGreaterThan(0.9 * count($climate->chunks), $overlaps + 1);
    }
}
