<?php

declare(strict_types=1);

namespace Tests\Core\Profiling;

use Fulcrion\Core\Profiling\StackNode;
use Fulcrion\Core\Profiling\StackReader;
use Fulcrion\Core\Profiling\StackTree;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * The same stacks in two formats, added up by brute force beside the tree, and whatever else a file may hold.
 */
final class StackOracleTest extends TestCase
{
    private Randomizer $random;

    protected function setUp(): void
    {
        $this->random = new Randomizer(new Mt19937(51));
    }

    public function test_perf_script_and_folded_stacks_of_the_same_samples_are_the_same_profile(): void
    {
        for ($run = 0; $run < 20; $run++) {
            $folded = $perf = '';
            foreach ($this->stacks(80) as $frames) {
                $folded .= 'engine;'.implode(';', $frames)." 1\n";
                $perf .= sprintf("engine %d/%d [%03d] %d.%06d:     %d cycles:P: \n", 41, 42, $this->random->getInt(0, 7),
                    $this->random->getInt(1, 99_999), $this->random->getInt(0, 999_999), $this->random->getInt(1, 999_999));
                foreach (array_reverse($frames) as $frame) {
                    $perf .= sprintf("\t%16x %s+0x%x (/usr/sbin/engine)\n", $this->random->getInt(1, PHP_INT_MAX), $frame,
                        $this->random->getInt(0, 9_999));
                }
                $perf .= "\n";
            }
            self::assertEquals(self::read($folded)->root, self::read($perf)->root);
        }
    }

    public function test_headers_of_perf_script_in_the_ways_it_writes_them(): void
    {
        foreach ([
            'swapper     0 [000]   123.456789:     10101010 cycles:P:',
            'a b c  4711/4712  99.000001: cpu-clock:',
            'java 12 [011] 5.5:          1 sched:sched_switch: prev_comm=java',
            ':4711  4711 1234.567: 250000 task-clock:ppp:',
        ] as $header) {
            $tree = self::read("{$header}\n\tabc main+0x1 (/bin/x)\n\n");
            self::assertSame(1.0, $tree->root->total, $header);
            self::assertSame(['main'], array_keys(array_values($tree->root->children)[0]->children), $header);
        }
        $tree = self::read("x 1 2.0: cycles:\n\nx 1 3.0: cycles:\n\tabc f (/bin/x)\n");
        self::assertSame([2.0, 1.0], [$tree->root->total, $tree->root->children['x']->own],
            'a sample without frames is one of the process');
    }

    public function test_functions_are_what_brute_force_finds(): void
    {
        for ($run = 0; $run < 25; $run++) {
            $own = $total = [];
            $sum = 0;
            $tree = new StackTree();
            foreach ($this->stacks(120) as $frames) {
                $weight = $this->random->getInt(1, 20);
                $sum += $weight;
                $tree->add($frames, $weight);
                $last = $frames[count($frames) - 1];
                $own[$last] = ($own[$last] ?? 0) + $weight;
                foreach (array_unique($frames) as $frame) {
                    $total[$frame] = ($total[$frame] ?? 0) + $weight;
                }
            }
            $found = [];
            foreach ($tree->functions() as $one) {
                $found[$one['name']] = [$one['own'], $one['total']];
            }
            ksort($found);
            ksort($total);
            self::assertEqualsWithDelta(
                array_map(static fn (string $name): array => [(float) ($own[$name] ?? 0), (float) $total[$name]],
                    array_combine(array_keys($total), array_map(strval(...), array_keys($total)))),
                $found,
                1e-9,
            );
            foreach (['f1', 'f', '2', 'zz'] as $text) {
                $with = 0;
                foreach ($this->again($tree->root, []) as [$frames, $weight]) {
                    $with += str_contains(implode("\n", $frames), $text) ? $weight : 0;
                }
                self::assertEqualsWithDelta($with / $sum, $tree->shareOf($text), 1e-9, $text);
            }
        }
    }

    public function test_text_and_tree_go_back_and_forth(): void
    {
        for ($run = 0; $run < 25; $run++) {
            $tree = new StackTree();
            foreach ($this->stacks(60) as $frames) {
                $tree->add($frames, $this->random->getInt(1, 999) / 8);
            }
            $lines = $tree->lines();
            self::assertEquals($tree->root, self::read(implode("\n", $lines))->root);
            $weights = array_map(static fn (string $line): float => (float) substr($line, (int) strrpos($line, ' ') + 1), $lines);
            $sorted = $weights;
            rsort($sorted);
            self::assertSame($sorted, $weights, 'the most first');
            self::assertEqualsWithDelta($tree->root->total, array_sum($weights), 1e-6);
            shuffle($lines);
            self::assertEqualsWithDelta($tree->root->total, self::read(implode("\n", $lines))->root->total, 1e-6);
        }
    }

    public function test_a_tree_that_is_full_keeps_all_weight(): void
    {
        for ($run = 0; $run < 25; $run++) {
            $most = $this->random->getInt(1, 40);
            $tree = new StackTree($most);
            $sum = 0.0;
            foreach ($this->stacks(200) as $frames) {
                $tree->add($frames, 1.5);
                $sum += 1.5;
            }
            self::assertLessThanOrEqual($most, $tree->count());
            self::assertSame($sum, $tree->root->total);
            self::assertEqualsWithDelta($sum, self::owns($tree->root), 1e-9);
            self::assertLessThanOrEqual($sum, $tree->folded());
        }
    }

    public function test_whatever_a_file_holds_reading_it_ends(): void
    {
        $pieces = ['main', ';', ' ', '5', "\t", 'abc', '+0x1', ' (', ')', 'x 1 2.0: cycles:', '[unknown]', '0', '-', '.', '1e3', "\u{e9}",
            "\xff", '#'];
        for ($run = 0; $run < 500; $run++) {
            $reader = new StackReader($tree = new StackTree());
            $lines = $this->random->getInt(1, 12);
            for ($line = 0; $line < $lines; $line++) {
                $text = '';
                for ($length = $this->random->getInt(0, 12); $length > 0; $length--) {
                    $text .= $pieces[$this->random->getInt(0, count($pieces) - 1)];
                }
                $reader->line($text);
            }
            $reader->end();
            self::assertLessThanOrEqual($lines, $reader->refused());
            self::assertTrue(is_finite($tree->root->total));
            self::assertGreaterThanOrEqual(0.0, $tree->root->total);
            self::assertLessThanOrEqual(10, count($reader->complaints()));
        }
    }

    public function test_a_name_is_cut_between_letters(): void
    {
        $tree = self::read(str_repeat("\u{e9}", 150).' 1');
        $name = (string) array_key_first($tree->root->children);
        self::assertSame(100, mb_strlen($name), 'two bytes each, 200 in all');
        self::assertTrue(mb_check_encoding($name, 'UTF-8'));
    }

    /**
     * @return list<non-empty-list<string>>
     */
    private function stacks(int $count): array
    {
        $stacks = [];
        for ($i = 0; $i < $count; $i++) {
            $frames = ['f'.$this->random->getInt(1, 6)];
            for ($depth = $this->random->getInt(0, 6); $depth > 0; $depth--) {
                $frames[] = 'f'.$this->random->getInt(1, 6);
            }
            $stacks[] = $frames;
        }

        return $stacks;
    }

    /**
     * @param  list<string>  $above
     * @return list<array{list<string>, float}>
     */
    private function again(StackNode $node, array $above): array
    {
        $all = $node->own > 0.0 ? [[$above, $node->own]] : [];
        foreach ($node->children as $child) {
            array_push($all, ...$this->again($child, [...$above, $child->name]));
        }

        return $all;
    }

    private static function owns(StackNode $node): float
    {
        return $node->own + array_sum(array_map(self::owns(...), $node->children));
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
