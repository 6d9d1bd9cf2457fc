<?php

declare(strict_types=1);

namespace Tests\Practice;

use Fulcrion\Tools\Bench\AdviceMeasuredBench;
use Fulcrion\Tools\Bench\RandomLayout;
use PHPUnit\Framework\TestCase;

/**
 * Advice on tables laid out at random, followed and measured. The bench of the same name does so with a hundred tables.
 */
final class AdviceTest extends TestCase
{
    public function test_what_is_called_worth_it_is_not_slower_when_it_is_followed(): void
    {
        $followed = 0;
        $harmed = [];
        $saved = 0.0;
        foreach ([7, 12, 20, 24, 31, 35] as $seed) {
            $layout = new RandomLayout(sys_get_temp_dir().'/fulcrion-layout-'.bin2hex(random_bytes(4)), $seed, 8_000);
            try {
                [$us] = $layout->measure();
                $kept = $layout->describe();
                foreach ($layout->advice() as $advice) {
                    if ($advice->worthIt && $advice->kind !== 'statistics') {
                        $then = (float) $layout->following($advice, static fn (): float => $layout->measure()[0]);
                        $followed++;
                        $saved += 1 - $then / $us;
                        if ($then > AdviceMeasuredBench::HARM * $us) {
                            $harmed[] = "table {$seed}: {$advice->advice}: {$us} became {$then}";
                        }
                        self::assertSame($kept, $layout->describe(), 'the layout is put back for the next one');
                    }
                }
            } finally {
                $layout->destroy();
            }
        }
        self::assertSame([], $harmed);
        self::assertGreaterThanOrEqual(5, $followed);
        self::assertGreaterThan(0.1, $saved / $followed);
    }
}
