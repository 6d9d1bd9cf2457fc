<?php

declare(strict_types=1);

namespace Tests\Core\Metrics;

use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Metrics\ProcText;
use PHPUnit\Framework\TestCase;

final class ProcTextTest extends TestCase
{
    private const FILES = [
        'stat' => "cpu  4705 150 1120 16250 520 3 80 40 0 0\ncpu0 2300 70 560 8100 260 1 40 20 0 0\ncpu1 2405 80 560 8150 260 2 40 20 0 0\n"
            ."intr 199292 0 1\nctxt 123\nbtime 1795000000\nprocesses 9000\nprocs_running 3\nprocs_blocked 1\nsoftirq 1 2\n",
        'loadavg' => "1.25 0.90 0.50 3/412 9001\n",
        'meminfo' => "MemTotal:        8000000 kB\nMemFree:          500000 kB\nMemAvailable:    3000000 kB\nSwapTotal:       1000000 kB\n"
            ."SwapFree:         900000 kB\nHugePages_Total:       0\n",
        'vmstat' => "nr_free_pages 125000\npswpin 40\npswpout 7\n",
        'diskstats' => "   7       0 loop0 10 0 20 0 0 0 0 0 0 0 0 0 0 0 0 0 0\n"
            ." 259       0 nvme0n1 1000 5 80000 4000 500 9 40000 2500 0 3200 6500 0 0 0 0 7 100\n"
            ." 259       1 nvme0n1p1 900 5 70000 3900 500 9 40000 2500 0 3100 6400 0 0 0 0 0 0\n"
            ."   8       0 sda 3 0 8 1 2 0 16 4 0 5 5\n   8      16 sdb 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0\n",
        'net/dev' => "Inter-|   Receive   |  Transmit\n face |bytes packets errs|bytes\n"
            ."    lo: 999 9 0 0 0 0 0 0 999 9 0 0 0 0 0 0\n  eth0: 123456 100 2 0 0 0 0 0 654321 90 1 0 0 0 0 0\n"
            ."veth12: 5 1 0 0 0 0 0 0 5 1 0 0 0 0 0 0\n",
    ];

    /**
     * @param  array<string, string>  $files
     * @return array<string, float> value by key
     */
    private static function read(array $files): array
    {
        $values = [];
        foreach (ProcText::read($files) as $metric) {
            self::assertArrayNotHasKey($metric->key(), $values, 'each once');
            $values[$metric->key()] = $metric->value;
        }

        return $values;
    }

    public function test_a_host_tells_of_its_processors_memory_disks_and_links(): void
    {
        $values = self::read(self::FILES);
        $cpu = static fn (string $mode): float => $values["system.cpu.time {\"cpu.mode\":\"{$mode}\"}"];
        self::assertSame([47.05, 1.5, 11.2, 162.5, 5.2, 0.03, 0.8, 0.4], array_map($cpu, [
            'user', 'nice', 'system', 'idle', 'iowait', 'interrupt', 'softirq', 'steal',
        ]));
        self::assertSame([2.0, 1.25], [$values['system.cpu.logical.count'], $values['system.cpu.load_average.1m']]);
        self::assertSame([3.0, 1.0], [$values['system.process.count {"process.status":"running"}'],
            $values['system.process.count {"process.status":"blocked"}']]);
        self::assertSame([8_192_000_000.0, 5_120_000_000.0, 102_400_000.0], [
            $values['system.memory.limit'], $values['system.memory.usage {"system.memory.state":"used"}'],
            $values['system.paging.usage {"system.paging.state":"used"}'],
        ]);
        self::assertSame([40.0, 7.0], [$values['system.paging.operations {"system.paging.direction":"in"}'],
            $values['system.paging.operations {"system.paging.direction":"out"}']]);
        $disk = static fn (string $name, string $device, string $direction): float => $values[
            "{$name} {\"disk.io.direction\":\"{$direction}\",\"system.device\":\"{$device}\"}"];
        self::assertSame([1_000.0, 40_960_000.0, 4.0], [
            $disk('system.disk.operations', 'nvme0n1', 'read'), $disk('system.disk.io', 'nvme0n1', 'read'),
            $disk('system.disk.operation_time', 'nvme0n1', 'read'),
        ]);
        self::assertSame([500.0, 20_480_000.0, 2.5], [
            $disk('system.disk.operations', 'nvme0n1', 'write'), $disk('system.disk.io', 'nvme0n1', 'write'),
            $disk('system.disk.operation_time', 'nvme0n1', 'write'),
        ]);
        self::assertSame(3.2, $values['system.disk.io_time {"system.device":"nvme0n1"}']);
        self::assertSame(8_192.0, $disk('system.disk.io', 'sda', 'write'), 'of an older kernel with eleven figures');
        $link = static fn (string $name, string $direction): float => $values[
            "{$name} {\"network.interface.name\":\"eth0\",\"network.io.direction\":\"{$direction}\"}"];
        self::assertSame([123_456.0, 654_321.0, 2.0, 1.0], [
            $link('system.network.io', 'receive'), $link('system.network.io', 'transmit'), $link('system.network.errors', 'receive'),
            $link('system.network.errors', 'transmit'),
        ]);
        $all = implode("\n", array_keys($values));
        foreach (['loop0', 'nvme0n1p1', 'sdb', '"lo"', 'veth'] as $none) {
            self::assertStringNotContainsString($none, $all);
        }
    }

    public function test_what_only_grows_is_a_counter(): void
    {
        $counters = array_filter(ProcText::read(self::FILES), static fn (Metric $one): bool => $one->isCounter);
        self::assertSame(
            ['system.cpu.time', 'system.disk.io', 'system.disk.io_time', 'system.disk.operation_time', 'system.disk.operations',
                'system.network.errors', 'system.network.io', 'system.paging.operations'],
            array_values(array_unique((static function (array $names): array {
                sort($names);

                return $names;
            })(array_map(static fn (Metric $one): string => $one->name, $counters)))),
        );
    }

    public function test_files_that_are_missing_cut_off_or_otherwise_are_left_out(): void
    {
        self::assertSame([], self::read([]));
        self::assertSame([], self::read(array_map(static fn (): string => 'something else', self::FILES)));
        foreach (array_keys(self::FILES) as $file) {
            self::assertNotEmpty(self::read([$file => self::FILES[$file]]), $file);
            for ($length = 0; $length < strlen(self::FILES[$file]); $length += 7) {
                self::read([$file => substr(self::FILES[$file], 0, $length)] + self::FILES);
            }
        }
        // An older kernel tells fewer times.
        self::assertCount(5, array_filter(
            ProcText::read(['stat' => "cpu 10 20 30 40 50\ncpu0 10 20 30 40 50\n"]),
            static fn (Metric $one): bool => $one->name === 'system.cpu.time',
        ));
    }

    public function test_labels_in_any_order_are_one_series(): void
    {
        $one = new Metric('m', '1', 1.0, ['b' => '2', 'a' => '1']);
        self::assertSame($one->key(), (new Metric('m', '1', 2.0, ['a' => '1', 'b' => '2']))->key());
        self::assertNotSame((new Metric('m', '1', 1.0, ['a' => '1']))->key(), (new Metric('m', '1', 1.0, ['a' => '2']))->key());
        self::assertSame('m', (new Metric('m', '1', 1.0))->key());
    }

    public function test_a_process_is_read_whatever_its_name(): void
    {
        $rest = 'S 1 2 2 0 -1 4194560 1 0 0 0 250 75 0 0 20 0 1 0 100 1000 30 18446744073709551615 1 1';
        $one = ProcText::process("4711 (a) b (c) {$rest}\n");
        self::assertNotNull($one);
        self::assertSame([4_711, 'a) b (c', 3.25, 30 * 4_096], [$one->pid, $one->name, $one->cpuSeconds, $one->residentBytes]);
        self::assertSame(30 * 16_384, ProcText::process("1 (x) {$rest}", 16_384)?->residentBytes);
        self::assertNull(ProcText::process(''));
        self::assertNull(ProcText::process('1 (x) S 1 2'));
        $own = ProcText::process((string) file_get_contents('/proc/self/stat'));
        self::assertSame([getmypid(), true], [$own?->pid, $own?->cpuSeconds >= 0.0 && $own?->residentBytes > 1_000_000]);
    }
}
