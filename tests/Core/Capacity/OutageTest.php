<?php

declare(strict_types=1);

namespace Tests\Core\Capacity;

use Fulcrion\Core\Capacity\Outage;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class OutageTest extends TestCase
{
    public function test_twelve_minutes_in_which_all_failed_are_counted_by_their_parts(): void
    {
        $found = self::find([[100, 0], [100, 60], [80, 80], [100, 80], [100, 1]], [0 => true, 310 => false, 620 => false, 1_300 => true]);
        self::assertCount(1, $found);
        self::assertSame([300, 1_200, 720.0, 220, 2], [$found[0]->from, $found[0]->to, $found[0]->seconds, $found[0]->failed,
            $found[0]->probes]);
    }

    public function test_statements_that_fail_for_themselves_are_no_outage(): void
    {
        self::assertSame([], self::find([[100, 24], [100, 20], [100, 24]]), 'less than a quarter');
        self::assertCount(1, self::find([[100, 0], [100, 25], [100, 0]]));
        self::assertSame([], self::find([[7, 7]]), 'seven may be one broken job');
        self::assertCount(1, self::find([[8, 8]]));
        self::assertSame([], self::find([[100, 60], [100, 99], [100, 60]]), 'in the middle one succeeded');
        self::assertSame([], self::find([[100, 60], [100, 100], [100, 60]], [400 => true]), 'in the middle the probe was answered');
        self::assertSame([], self::find([]));
    }

    public function test_probes_alone_tell_where_nobody_works(): void
    {
        self::assertSame([], self::find([], [0 => true, 300 => false, 600 => true]), 'one run that fails is no outage');
        $found = self::find([], [0 => true, 300 => false, 600 => false, 900 => true]);
        self::assertSame([300, 900, 600.0, 0, 2],
            [$found[0]->from, $found[0]->to, $found[0]->seconds, $found[0]->failed, $found[0]->probes]);
        self::assertCount(2, self::find([[9, 9], [0, 0], [0, 0], [9, 9]]), 'what lies between is not known');
    }

    public function test_healthy_months_have_none(): void
    {
        $random = new Randomizer(new Mt19937(5));
        for ($month = 0; $month < 20; $month++) {
            $statements = [];
            for ($at = 0; $at < 28 * 86_400; $at += 300) {
                $executions = $random->getInt(0, 40);
                $failed = 0;
                for ($i = 0; $i < $executions; $i++) {
                    $failed += (int) ($random->getInt(1, 1_000) <= 10);
                }
                $statements[$at] = ['executions' => $executions, 'failed' => $failed];
            }
            self::assertSame([], Outage::find($statements, [], 300), 'one of a hundred statements fails everywhere');
        }
    }

    /**
     * @param  list<array{int, int}>  $rows executions and failed ones by five minutes
     * @param  array<int, bool>  $probes
     * @return list<Outage>
     */
    private static function find(array $rows, array $probes = []): array
    {
        $statements = [];
        foreach ($rows as $place => [$executions, $failed]) {
            $statements[300 * $place] = ['executions' => $executions, 'failed' => $failed];
        }

        return Outage::find($statements, $probes, 300);
    }
}
