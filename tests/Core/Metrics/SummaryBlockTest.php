<?php

declare(strict_types=1);

namespace Tests\Core\Metrics;

use Fulcrion\Core\Metrics\DamagedBlock;
use Fulcrion\Core\Metrics\Points;
use Fulcrion\Core\Metrics\Summary;
use Fulcrion\Core\Metrics\SummaryBlock;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class SummaryBlockTest extends TestCase
{
    private const HOUR_MS = 1_795_608_000_000;

    public function test_what_is_read_is_what_was_written(): void
    {
        $random = new Randomizer(new Mt19937(3));
        for ($draw = 0; $draw < 60; $draw++) {
            $points = [];
            $kind = $draw % 4;
            for ($i = 0; $i < 400; $i++) {
                // Some readings are missing, whole minutes now and then.
                if ($random->getInt(0, 9) > 1 && ! ($i > 100 && $i < 140)) {
                    $points[] = [self::HOUR_MS + $i * 10_000, match ($kind) {
                        0 => $random->getInt(-5_000, 5_000) / 100,
                        1 => 1e12 + 7_777.0 * $i,
                        2 => $random->getInt(1, 1 << 40) / 3,
                        default => -4.0,
                    }];
                }
            }
            $summaries = Summary::over(Points::of($points), 60_000);
            $read = SummaryBlock::decode(SummaryBlock::encode($summaries));
            self::assertSame(array_keys($summaries), array_keys($read));
            foreach ($summaries as $at => $one) {
                // A sum is as exact as adding up floats is.
                self::assertEqualsWithDelta($one->sum, $read[$at]->sum, 1e-11 * max(1.0, abs($one->sum)));
                self::assertSame([$one->low, $one->high, $one->last, $one->count],
                    [$read[$at]->low, $read[$at]->high, $read[$at]->last, $read[$at]->count]);
            }
        }
        self::assertSame([], SummaryBlock::decode(SummaryBlock::encode([])));
    }

    public function test_a_changed_byte_is_noticed_anywhere(): void
    {
        $block = SummaryBlock::encode([0 => new Summary(1.0, 2.0, 3.0, 2.0, 2), 60_000 => new Summary(1.0, 4.0, 5.0, 4.0, 2)]);
        for ($at = 0; $at < strlen($block); $at++) {
            $changed = $block;
            $changed[$at] = chr(ord($changed[$at]) ^ 16);
            try {
                SummaryBlock::decode($changed);
                self::fail("byte {$at}");
            } catch (DamagedBlock $damage) {
                self::assertNotSame('', $damage->getMessage());
            }
        }
        $this->expectException(DamagedBlock::class);
        SummaryBlock::decode(substr($block, 0, -3));
    }
}
