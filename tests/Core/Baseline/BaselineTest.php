<?php

declare(strict_types=1);

namespace Tests\Core\Baseline;

use Fulcrion\Core\Baseline\BaselineResource;
use Fulcrion\Core\Baseline\Compared;
use Fulcrion\Core\Baseline\ResourceUse;
use Fulcrion\Core\Baseline\ToolText;
use PHPUnit\Framework\TestCase;

final class BaselineTest extends TestCase
{
    private const FIO = '{"jobs":[{"error":0,"read":{"bw_bytes":609854290,"iops":581.6},"write":{"bw_bytes":12345}}]}';

    public function test_tools_are_read_as_they_write(): void
    {
        self::assertSame([
            'disk-read' => 609_854_290.0,
            'disk-write' => 12_345.0,
            'disk-random' => 581.6,
            'processors' => 1_428.89,
            'memory' => 12_234.5 * 1_048_576,
            'network' => 2.4e9,
        ], ToolText::read([
            'fio-read' => self::FIO,
            'fio-write' => "note: both iodepth >= 1 and synchronous I/O engine are selected\n".self::FIO,
            'fio-random' => self::FIO,
            'sysbench-cpu' => "CPU speed:\n    events per second:  1428.89\n\nGeneral statistics:\n",
            'sysbench-memory' => "12286.00 MiB transferred (12234.50 MiB/sec)\n",
            'iperf3' => '{"start":{"version":"iperf 3.12"},"end":{"sum_received":{"bits_per_second":19200000000.0}}}',
        ]));
    }

    public function test_what_went_wrong_is_no_value(): void
    {
        self::assertSame([], ToolText::read([]));
        self::assertSame([], ToolText::read([
            'fio-read' => str_replace('"error":0', '"error":28', self::FIO),
            'fio-write' => substr(self::FIO, 0, 60),
            'fio-random' => '{"jobs":"none"}',
            'sysbench-cpu' => 'FATAL: invalid option',
            'sysbench-memory' => '0.00 MiB transferred (0.00 MiB/sec)',
            'iperf3' => '{"error":"unable to connect to server"}',
        ]));
    }

    public function test_a_host_that_can_do_less_is_named_and_no_other(): void
    {
        $host = static fn (float $disk, float $network = 100.0): array => ['disk-read' => $disk, 'network' => $network];
        $hosts = ['a' => $host(100.0), 'b' => $host(97.0), 'c' => $host(103.0), 'd' => $host(50.0)];
        self::assertSame(['d' => ['disk-read' => 0.5]], Compared::low($hosts));
        self::assertSame([], Compared::low(['a' => $host(100.0), 'b' => $host(100.0), 'd' => $host(50.0)]), 'two others are too few');
        self::assertSame([], Compared::low(['d' => $host(85.0)] + $hosts), 'up to 15% is nothing');
        self::assertSame(['d'], array_keys(Compared::low(['d' => $host(84.9)] + $hosts)));
    }

    public function test_shares_of_disks_and_networks(): void
    {
        self::assertSame([0.75, null, 1.0], ResourceUse::disk([50.0, null, 0.0], [25.0, 1.0, 100.0], 100.0, 100.0));
        self::assertSame([0.5 + 0.5, 0.25], ResourceUse::disk([100.0, 0.0], [25.0, 12.5], 200.0, 50.0));
        self::assertSame([0.5, 0.75, null], ResourceUse::network([50.0, 10.0, 1.0], [40.0, 75.0, null], 100.0));
    }

    public function test_the_resource_nearest_its_end_is_the_answer(): void
    {
        $shares = array_map(static fn (int $i): float => $i / 100, range(0, 100));
        $disk = ResourceUse::of('a', 'disk', $shares) ?? self::fail('nothing');
        self::assertEqualsWithDelta(0.5, $disk->middle, 1e-9);
        self::assertEqualsWithDelta(0.95, $disk->high, 1e-9);
        self::assertNull(ResourceUse::of('a', 'disk', [null, null]));
        $best = ResourceUse::bottleneck([new ResourceUse('a', 'network', 0.1, 0.2), $disk, new ResourceUse('b', 'disk', 0.6, 0.95)]);
        self::assertSame(['b', 'disk'], [$best?->host, $best->resource], 'of two that are alike the one that is so all the time');
        self::assertNull(ResourceUse::bottleneck([]));
        foreach (BaselineResource::cases() as $one) {
            self::assertNotSame('', $one->label().$one->how().$one->say(1.0));
        }
    }
}
