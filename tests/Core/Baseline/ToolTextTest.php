<?php

declare(strict_types=1);

namespace Tests\Core\Baseline;

use Fulcrion\Core\Baseline\BaselineResource;
use Fulcrion\Core\Baseline\Compared;
use Fulcrion\Core\Baseline\ResourceUse;
use Fulcrion\Core\Baseline\ToolText;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * What tools print on good days and on bad ones, and what is made of it.
 */
final class ToolTextTest extends TestCase
{
    /**
     * @return iterable<string, array{array<string, string>, array<string, float>}>
     */
    public static function outputs(): iterable
    {
        $fio = static fn (array $job): string => (string) json_encode(['fio version' => 'fio-3.33', 'jobs' => [$job]]);
        yield 'whole numbers and fractions' => [['fio-read' => $fio(['error' => 0, 'read' => ['bw_bytes' => 1.5e9]])],
            ['disk-read' => 1.5e9]];
        yield 'warnings before it' => [['fio-read' => "fio: this is odd\nand { so\n"], []];
        yield 'a warning in one line' => [['fio-read' => "note\n".$fio(['error' => 0, 'read' => ['bw_bytes' => 7]])], ['disk-read' => 7.0]];
        yield 'an error of the disk' => [['fio-write' => $fio(['error' => 5, 'write' => ['bw_bytes' => 7]])], []];
        yield 'no error told' => [['fio-write' => $fio(['write' => ['bw_bytes' => 7]])], []];
        yield 'nothing done' => [['fio-write' => $fio(['error' => 0, 'write' => ['bw_bytes' => 0]])], []];
        yield 'a text where a number is' => [['fio-write' => $fio(['error' => 0, 'write' => ['bw_bytes' => '7']])], []];
        yield 'no jobs' => [['fio-random' => '{"jobs":[]}'], []];
        yield 'reads a second' => [['fio-random' => $fio(['error' => 0, 'read' => ['iops' => 23_658.34, 'bw_bytes' => 1]])],
            ['disk-random' => 23_658.34]];
        yield 'events' => [['sysbench-cpu' => "    events per second:  10.00\n"], ['processors' => 10.0]];
        yield 'events of another kind' => [['sysbench-cpu' => "    total number of events:  10\n"], []];
        yield 'memory' => [['sysbench-memory' => '1.00 MiB transferred (2.00 MiB/sec)'], ['memory' => 2_097_152.0]];
        yield 'memory in other units' => [['sysbench-memory' => '1.00 GiB transferred (2.00 GiB/sec)'], []];
        yield 'bits a second' => [['iperf3' => '{"end":{"sum_received":{"bits_per_second":8}}}'], ['network' => 1.0]];
        yield 'what was sent is not what came' => [['iperf3' => '{"end":{"sum_sent":{"bits_per_second":8}}}'], []];
        yield 'a server that was not there' => [['iperf3' => '{"start":{},"end":{},"error":"unable to connect"}'], []];
        yield 'more than there is' => [['iperf3' => '{"end":{"sum_received":{"bits_per_second":1e30}}}'], []];
        yield 'an output of another step' => [['iperf3' => $fio(['error' => 0, 'read' => ['bw_bytes' => 7]]), 'unknown' => 'x'], []];
    }

    /**
     * @param  array<string, string>  $outputs
     * @param  array<string, float>  $values
     */
    #[DataProvider('outputs')]
    public function test_what_is_told_is_read_and_nothing_is_made_up(array $outputs, array $values): void
    {
        self::assertSame($values, ToolText::read($outputs));
    }

    public function test_whatever_a_tool_prints_reading_it_ends(): void
    {
        $random = new Randomizer(new Mt19937(61));
        $steps = ['fio-read', 'fio-write', 'fio-random', 'sysbench-cpu', 'sysbench-memory', 'iperf3', 'other'];
        $known = array_map(static fn (BaselineResource $one): string => $one->value, BaselineResource::cases());
        for ($run = 0; $run < 400; $run++) {
            $outputs = [];
            for ($i = $random->getInt(0, 5); $i > 0; $i--) {
                $text = $random->getBytes($random->getInt(1, 60));
                $outputs[$steps[$random->getInt(0, 6)]] = $random->getInt(0, 1) === 1 ? '{"jobs":[{"error":0,"read":'.$text.'}]}' : $text;
            }
            $values = ToolText::read($outputs);
            self::assertLessThanOrEqual(count($outputs), count($values));
            foreach ($values as $resource => $value) {
                self::assertContains($resource, $known);
                self::assertGreaterThan(0.0, $value);
            }
        }
    }

    public function test_hosts_that_do_less_are_named_whatever_the_unit_and_only_they(): void
    {
        $random = new Randomizer(new Mt19937(62));
        for ($run = 0; $run < 100; $run++) {
            $hosts = [];
            $count = $random->getInt(4, 16);
            $sick = $random->getInt(1, $count);
            for ($host = 1; $host <= $count; $host++) {
                // Hosts of one kind differ by up to five percent either way.
                $hosts["h{$host}"] = ['disk-read' => 1e9 * ($random->getInt(950, 1_050) / 1_000) * ($host === $sick ? 0.6 : 1.0),
                    'network' => 1e8 * $random->getInt(950, 1_050) / 1_000];
            }
            $low = Compared::low($hosts);
            self::assertSame(["h{$sick}"], array_keys($low));
            self::assertSame(['disk-read'], array_keys($low["h{$sick}"]));
            self::assertEqualsWithDelta(0.6, $low["h{$sick}"]['disk-read'], 0.07);
            $scaled = array_map(static fn (array $values): array => array_map(static fn (float $value): float => $value * 8, $values),
                $hosts);
            self::assertEqualsWithDelta($low, Compared::low($scaled), 1e-12);
        }
    }

    public function test_a_host_that_lacks_a_value_is_not_held_against_it(): void
    {
        $hosts = ['a' => ['disk-read' => 1.0], 'b' => ['disk-read' => 1.0], 'c' => ['network' => 1.0], 'd' => ['disk-read' => 0.1]];
        self::assertSame([], Compared::low($hosts), 'two others that tell are too few');
        self::assertSame(['d'], array_keys(Compared::low(['e' => ['disk-read' => 1.0]] + $hosts)));
        self::assertSame([], Compared::low([]));
    }

    public function test_shares_are_counted_from_what_is_known(): void
    {
        self::assertNull(ResourceUse::of('a', 'disk', []));
        $use = ResourceUse::of('a', 'disk', [null, 0.2, null, 0.4, 0.9]) ?? self::fail('nothing');
        self::assertSame(0.4, $use->middle);
        self::assertGreaterThan(0.4, $use->high);
        self::assertLessThanOrEqual(0.9, $use->high);
        self::assertSame([], ResourceUse::disk([], [], 1.0, 1.0));
        self::assertSame([null], ResourceUse::network([1.0], [], 1.0), 'half of it says nothing');
        $uses = [new ResourceUse('b', 'disk', 0.5, 0.5), new ResourceUse('a', 'disk', 0.5, 0.5)];
        self::assertSame('a', ResourceUse::bottleneck($uses)?->host, 'of two that are alike always the same one');
        self::assertSame('a', ResourceUse::bottleneck(array_reverse($uses))?->host);
    }
}
