<?php

declare(strict_types=1);

namespace Tests\Core\Storage;

use Fulcrion\Core\Catalog\ZoneMap;
use Fulcrion\Core\Storage\ChunkIndex;
use Fulcrion\Core\Storage\Overlap;
use Fulcrion\Core\Storage\Predicate;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class ChunkIndexTest extends TestCase
{
    public function test_shares_are_those_of_looking_at_every_chunk(): void
    {
        $random = new Randomizer(new Mt19937(7));
        $words = ['', '10', '9', 'ash', 'birch', 'elm', 'oak', 'yew'];
        for ($world = 0; $world < 60; $world++) {
            $zones = $sizes = [];
            for ($i = 0; $i < $random->getInt(1, 40); $i++) {
                $rows = $random->getInt(1, 9);
                $a = $random->getInt(-20, 20);
                $w = $random->getInt(0, 7);
                $zones[] = [
                    match ($random->getInt(0, 9)) {
                        0 => new ZoneMap(null, null, $rows, $rows, 1),
                        1 => new ZoneMap(null, null, 0, $rows, 1),
                        default => new ZoneMap($a, $a + $random->getInt(0, 12), 0, $rows, 1),
                    },
                    new ZoneMap($words[min($w, $v = $random->getInt(0, 7))], $words[max($w, $v)], 0, $rows, 1),
                ];
                $sizes[] = $random->getInt(1, 100);
            }
            $index = new ChunkIndex($zones, $sizes, ['a', 'w']);
            for ($try = 0; $try < 25; $try++) {
                $low = $random->getInt(-25, 25);
                $candidates = [
                    Predicate::range('a', $low, $low + $random->getInt(0, 10)),
                    Predicate::range('a', null, $low),
                    Predicate::range('a', $low, null),
                    Predicate::oneOf('a', [$low, $low + 3, $low - 9]),
                    Predicate::range('w', $words[$random->getInt(0, 7)], null),
                    Predicate::oneOf('w', [$words[$random->getInt(0, 7)], $words[$random->getInt(0, 7)], 'zzz']),
                    Predicate::unknown('a'),
                    Predicate::range('elsewhere', 1, 2),
                ];
                $predicates = array_values(
                    array_intersect_key($candidates, array_flip(array_slice($random->shuffleArray(range(0, 7)), 0, $random->getInt(0, 4)))),
                );
                $read = 0;
                foreach ($zones as $i => [$a, $w]) {
                    foreach ($predicates as $p) {
                        if ($p->known && $p->column !== 'elsewhere' && ! $p->meets($p->column === 'a' ? $a : $w)) {
                            continue 2;
                        }
                    }
                    $read += $sizes[$i];
                }
                self::assertEqualsWithDelta(
                    $read / array_sum($sizes),
                    $index->share($predicates),
                    1e-12,
                    (string) json_encode([$zones, $predicates]),
                );
            }
        }
    }

    public function test_depth_of_overlap_is_that_counted_point_by_point(): void
    {
        // 0-10 and 4-6 and 8-20: from 0 one, from 4 two, behind 6 one, from 8 two, behind 10 one.
        $overlap = Overlap::of(Tables::of([[0, 10], [4, 6], [8, 20]]), 'a');
        self::assertSame(2, $overlap->maxDepth);
        self::assertEqualsWithDelta((4 * 1 + 2 * 2 + 2 * 1 + 2 * 2 + 10 * 1) / 20, $overlap->meanDepth, 1e-9);
        self::assertSame(
            [0, 1, 1],
            array_map(static fn (array $span): int => $span[3], $overlap->spans),
            'the third finds the second lane free',
        );

        $random = new Randomizer(new Mt19937(3));
        for ($world = 0; $world < 40; $world++) {
            $spans = [];
            for ($i = 0; $i < $random->getInt(1, 30); $i++) {
                $from = $random->getInt(0, 60);
                $spans[] = [$from, $from + $random->getInt(0, 15)];
            }
            $overlap = Overlap::of(Tables::of($spans), 'a');
            $deepest = max(
                array_map(
                    static fn (int $at): int => count(array_filter($spans, static fn (array $s): bool => $s[0] <= $at && $at <= $s[1])),
                    range(0, 75),
                ),
            );
            self::assertSame($deepest, $overlap->maxDepth);
            $lanes = [];
            foreach ($overlap->spans as [, $from, $to, $lane]) {
                self::assertGreaterThan($lanes[$lane] ?? -1, $from, 'spans of a lane do not touch');
                $lanes[$lane] = $to;
            }
            self::assertCount($deepest, $lanes, 'no lane more than needed');
        }
    }
}
