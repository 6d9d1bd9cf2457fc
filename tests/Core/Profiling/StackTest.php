<?php

declare(strict_types=1);

namespace Tests\Core\Profiling;

use Fulcrion\Core\Profiling\StackReader;
use Fulcrion\Core\Profiling\StackTree;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class StackTest extends TestCase
{
    private const PERF = <<<'TEXT'
        # captured on some day
        mariadbd 4711/4712 [001] 1234.567890:     250000 cpu-clock:pppH:
        	55d0c0a1 row_search_mvcc+0x2a1 (/usr/sbin/mariadbd)
        	55d0c0b2 handler::ha_index_next(unsigned char*)+0x10 (/usr/sbin/mariadbd)
        	    7f00 [unknown] (/usr/lib/libc.so.6)

        php worker 99 [000] 1234.567999:          1 cycles:
        	ffff8123 do_syscall_64 ([kernel.kallsyms])

        mariadbd 4711/4712 [001] 1234.568890:     250000 cpu-clock:pppH:
        	55d0c0a1 row_search_mvcc+0x99 (/usr/sbin/mariadbd)
        	55d0c0b2 handler::ha_index_next(unsigned char*)+0x10 (/usr/sbin/mariadbd)
        	    7f00 [unknown] (/usr/lib/libc.so.6)
        TEXT;

    public function test_folded_stacks_are_added_up_where_they_begin_alike(): void
    {
        $tree = self::read("main;read;parse 3\nmain;read 2\r\nmain;write 5\n\n# a remark\nidle 10\n");
        self::assertSame(20.0, $tree->root->total);
        self::assertSame([10.0, 0.0], [$tree->root->children['main']->total, $tree->root->children['main']->own]);
        self::assertSame([5.0, 2.0], [$tree->root->at(['main', 'read'])?->total, $tree->root->at(['main', 'read'])?->own]);
        self::assertNull($tree->root->at(['main', 'nothing']));
        self::assertSame(['idle 10', 'main;write 5', 'main;read;parse 3', 'main;read 2'], $tree->lines());
        self::assertEquals($tree->root, self::read(implode("\n", $tree->lines()))->root, 'what is written is read as the same');
    }

    public function test_a_frame_may_hold_spaces_and_a_weight_a_fraction(): void
    {
        $tree = self::read("all jobs;operator new(unsigned long);x 0.25\n");
        self::assertSame(0.25, $tree->root->at(['all jobs', 'operator new(unsigned long)', 'x'])?->own);
        self::assertSame(['all jobs;operator new(unsigned long);x 0.25'], $tree->lines());
    }

    public function test_what_perf_script_prints_is_read_from_the_innermost_frame(): void
    {
        $tree = self::read(self::PERF);
        self::assertSame(3.0, $tree->root->total, 'a sample counts as one, the last one without an empty line behind it too');
        self::assertSame(2.0, $tree->root->at(['mariadbd', '[/usr/lib/libc.so.6]', 'handler::ha_index_next(unsigned char*)',
            'row_search_mvcc'])?->own);
        self::assertSame(1.0, $tree->root->at(['php worker', 'do_syscall_64'])?->own);
    }

    public function test_lines_that_are_no_stacks_are_told(): void
    {
        $reader = new StackReader($tree = new StackTree());
        foreach (['main;read 3', 'nonsense', 'a;b -1', 'a;b 0', ' 5', 'a INF', 'a;b 1e3'] as $line) {
            $reader->line($line);
        }
        $reader->end();
        self::assertSame([1_003.0, 5], [$tree->root->total, $reader->refused()]);
        self::assertSame('Line 2: it is no stack with a number behind it, and no line of perf script.', $reader->complaints()[0]);
        self::assertSame(['?', 'b'], array_keys($this->deep(self::read(';b 1'))));
    }

    public function test_a_function_that_calls_itself_counts_once(): void
    {
        $tree = self::read("main;walk;walk;walk 4\nmain;walk;leaf 1\nother;leaf 2\n");
        self::assertSame([
            ['name' => 'walk', 'own' => 4.0, 'total' => 5.0],
            ['name' => 'leaf', 'own' => 3.0, 'total' => 3.0],
            ['name' => 'main', 'own' => 0.0, 'total' => 5.0],
            ['name' => 'other', 'own' => 0.0, 'total' => 2.0],
        ], $tree->functions());
        self::assertEqualsWithDelta(5 / 7, $tree->shareOf('WALK'), 1e-12, 'letters of either size, and each stack once');
        self::assertEqualsWithDelta(3 / 7, $tree->shareOf('leaf'), 1e-12);
        self::assertSame(0.0, $tree->shareOf('nothing'));
        self::assertSame(0.0, (new StackTree())->shareOf('x'));
    }

    public function test_there_is_an_end_to_how_large_it_grows(): void
    {
        $tree = new StackTree(10);
        $reader = new StackReader($tree);
        for ($i = 0; $i < 1_000; $i++) {
            $reader->line("main;f{$i} 1");
        }
        self::assertSame(10, $tree->count());
        self::assertSame(1_000.0, $tree->root->total, 'nothing is lost');
        self::assertSame(991.0, $tree->folded());
        self::assertSame(991.0, $tree->root->children['main']->own);
        $deep = self::read(implode(';', array_map(static fn (int $i): string => "f{$i}", range(1, 5_000))).' 1');
        self::assertSame(StackTree::MOST_DEPTH, $deep->count());
        self::assertSame(1.0, $deep->folded());
    }

    /** Whatever stacks there are: what is below a place and what it took itself is what it took in all. */
    public function test_sums_hold_for_stacks_at_random(): void
    {
        $random = new Randomizer(new Mt19937(8));
        for ($run = 0; $run < 30; $run++) {
            $sum = 0;
            $own = [];
            $tree = new StackTree();
            for ($i = 0; $i < 200; $i++) {
                $frames = [];
                for ($depth = $random->getInt(1, 8); $depth > 0; $depth--) {
                    $frames[] = 'f'.$random->getInt(1, 5);
                }
                $weight = $random->getInt(1, 9);
                $sum += $weight;
                $own[$frames[count($frames) - 1]] = ($own[$frames[count($frames) - 1]] ?? 0) + $weight;
                $tree->add($frames, $weight);
            }
            self::assertSame((float) $sum, $tree->root->total);
            $check = static function ($node) use (&$check): void {
                self::assertEqualsWithDelta($node->total, $node->own + array_sum(array_map(static fn ($one): float => $one->total,
                    $node->children)), 1e-9);
                array_map($check, $node->children);
            };
            $check($tree->root);
            foreach ($tree->functions() as $one) {
                self::assertEqualsWithDelta($own[$one['name']] ?? 0, $one['own'], 1e-9);
                self::assertLessThanOrEqual($sum, $one['total']);
                self::assertGreaterThanOrEqual($one['own'], $one['total']);
            }
        }
    }

    /**
     * @return array<string, true> the names on the way down
     */
    private function deep(StackTree $tree): array
    {
        $names = [];
        for ($node = $tree->root; $node->children !== []; $node = $next) {
            $next = array_values($node->children)[0];
            $names[$next->name] = true;
        }

        return $names;
    }

    private static function read(string $text): StackTree
    {
        $reader = new StackReader($tree = new StackTree());
        foreach (explode("\n", $text) as $line) {
            $reader->line($line);
        }
        $reader->end();

        return $tree;
    }
}
