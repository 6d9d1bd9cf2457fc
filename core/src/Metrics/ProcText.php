<?php

declare(strict_types=1);

namespace Fulcrion\Core\Metrics;

/**
 * What a Linux host tells of itself in /proc (proc(5), Documentation/filesystems/proc.rst and admin-guide/iostats.rst of the kernel).
 * What a file lacks, or says otherwise than expected, is left out.
 */
final class ProcText
{
    /** The files that are read, below /proc. */
    public const FILES = ['stat', 'loadavg', 'meminfo', 'vmstat', 'diskstats', 'net/dev'];

    /** Times are counted in parts of a second that are the same on all architectures here. */
    private const TICKS = 100.0;

    /** Sectors of these files are always of so many bytes, whatever the disk has. */
    private const SECTOR = 512.0;

    private const KIB = 1024.0;

    /** Places of the first line of stat. */
    private const MODES = ['user', 'nice', 'system', 'idle', 'iowait', 'interrupt', 'softirq', 'steal'];

    /** Devices that are no disks of their own: parts of one, memory, images. */
    private const NO_DISK = '~^(loop|ram|zram|sr|fd|dm-)\d|^(sd|vd|xvd|hd)[a-z]+\d+$|^(nvme\d+n\d+|mmcblk\d+)p\d+$~D';

    /** Interfaces no byte leaves the host by. */
    private const NO_LINK = '~^(lo$|veth|docker|br-|ifb|virbr|dummy)~';

    /**
     * @param  array<string, string>  $files text by name below /proc
     * @return list<Metric>
     */
    public static function read(array $files): array
    {
        return [
            ...self::processor($files['stat'] ?? ''),
            ...self::load($files['loadavg'] ?? ''),
            ...self::memory($files['meminfo'] ?? ''),
            ...self::swapping($files['vmstat'] ?? ''),
            ...self::disks($files['diskstats'] ?? ''),
            ...self::network($files['net/dev'] ?? ''),
        ];
    }

    /**
     * A process as its own stat tells of it; its name may hold spaces and brackets.
     *
     * @param  int  $pageBytes of memory
     */
    public static function process(string $stat, int $pageBytes = 4_096): ?HostProcess
    {
        if (preg_match('~^(\d+) \((.*)\) (\S) (.*)$~s', trim($stat), $match) !== 1) {
            return null;
        }
        // Counted from the state, which is the third: times of the process at 14 and 15, its resident pages at 24.
        $of = explode(' ', $match[4]);

        return count($of) < 21 ? null : new HostProcess((int) $match[1], $match[2], ((float) $of[10] + (float) $of[11]) / self::TICKS,
            (int) $of[20] * $pageBytes);
    }

    /**
     * A file system, which no file of /proc tells of.
     *
     * @return list<Metric>
     */
    public static function fileSystem(string $mountpoint, float $bytes, float $free): array
    {
        $labels = ['system.filesystem.mountpoint' => $mountpoint];

        return [
            new Metric('system.filesystem.limit', 'By', $bytes, $labels),
            new Metric('system.filesystem.usage', 'By', $bytes - $free, $labels + ['system.filesystem.state' => 'used']),
        ];
    }

    /**
     * @return list<Metric>
     */
    private static function processor(string $text): array
    {
        $metrics = [];
        if (preg_match('~^cpu ((?: *\d+)+)~m', $text, $match) === 1) {
            $ticks = self::numbers($match[1]);
            foreach (self::MODES as $place => $mode) {
                if (isset($ticks[$place])) {
                    $metrics[] = new Metric('system.cpu.time', 's', $ticks[$place] / self::TICKS, ['cpu.mode' => $mode], true);
                }
            }
            $metrics[] = new Metric('system.cpu.logical.count', '{cpu}', (float) preg_match_all('~^cpu\d+ ~m', $text));
        }
        foreach (['procs_running' => 'running', 'procs_blocked' => 'blocked'] as $word => $state) {
            if (preg_match("~^{$word} (\d+)$~m", $text, $match) === 1) {
                $metrics[] = new Metric('system.process.count', '{process}', (float) $match[1], ['process.status' => $state]);
            }
        }

        return $metrics;
    }

    /**
     * @return list<Metric>
     */
    private static function load(string $text): array
    {
        return preg_match('~^(\d+\.\d+) \d+\.\d+ \d+\.\d+ ~', $text, $match) === 1
            ? [new Metric('system.cpu.load_average.1m', '1', (float) $match[1])] : [];
    }

    /**
     * @return list<Metric>
     */
    private static function memory(string $text): array
    {
        $bytes = [];
        preg_match_all('~^(\w+):\s+(\d+) kB$~m', $text, $found, PREG_SET_ORDER);
        foreach ($found as [, $name, $kib]) {
            $bytes[$name] = (float) $kib * self::KIB;
        }
        $metrics = [];
        if (isset($bytes['MemTotal'], $bytes['MemAvailable'])) {
            $metrics[] = new Metric('system.memory.limit', 'By', $bytes['MemTotal']);
            $metrics[] = new Metric('system.memory.usage', 'By', $bytes['MemTotal'] - $bytes['MemAvailable'],
                ['system.memory.state' => 'used']);
        }
        if (isset($bytes['SwapTotal'], $bytes['SwapFree'])) {
            $metrics[] = new Metric('system.paging.usage', 'By', $bytes['SwapTotal'] - $bytes['SwapFree'],
                ['system.paging.state' => 'used']);
        }

        return $metrics;
    }

    /**
     * @return list<Metric>
     */
    private static function swapping(string $text): array
    {
        $metrics = [];
        foreach (['pswpin' => 'in', 'pswpout' => 'out'] as $word => $direction) {
            if (preg_match("~^{$word} (\d+)$~m", $text, $match) === 1) {
                $metrics[] = new Metric('system.paging.operations', '{operation}', (float) $match[1],
                    ['system.paging.direction' => $direction], true);
            }
        }

        return $metrics;
    }

    /**
     * @return list<Metric>
     */
    private static function disks(string $text): array
    {
        $metrics = [];
        preg_match_all('~^\s*\d+\s+\d+\s+(\S+)((?:\s+\d+){11,})$~m', $text, $found, PREG_SET_ORDER);
        foreach ($found as [, $device, $rest]) {
            $of = self::numbers($rest);
            // A device nobody ever used is not there.
            if (preg_match(self::NO_DISK, $device) === 1 || $of[0] + $of[4] <= 0.0) {
                continue;
            }
            foreach (['read' => 0, 'write' => 4] as $direction => $first) {
                $labels = ['system.device' => $device, 'disk.io.direction' => $direction];
                $metrics[] = new Metric('system.disk.operations', '{operation}', $of[$first], $labels, true);
                $metrics[] = new Metric('system.disk.io', 'By', $of[$first + 2] * self::SECTOR, $labels, true);
                $metrics[] = new Metric('system.disk.operation_time', 's', $of[$first + 3] / 1_000, $labels, true);
            }
            $metrics[] = new Metric('system.disk.io_time', 's', $of[9] / 1_000, ['system.device' => $device], true);
        }

        return $metrics;
    }

    /**
     * @return list<Metric>
     */
    private static function network(string $text): array
    {
        $metrics = [];
        preg_match_all('~^\s*([^\s:]+):\s*(\d+(?:\s+\d+){15})$~m', $text, $found, PREG_SET_ORDER);
        foreach ($found as [, $interface, $rest]) {
            $of = self::numbers($rest);
            if (preg_match(self::NO_LINK, $interface) === 1) {
                continue;
            }
            foreach (['receive' => 0, 'transmit' => 8] as $direction => $first) {
                $labels = ['network.interface.name' => $interface, 'network.io.direction' => $direction];
                $metrics[] = new Metric('system.network.io', 'By', $of[$first], $labels, true);
                $metrics[] = new Metric('system.network.errors', '{error}', $of[$first + 2], $labels, true);
            }
        }

        return $metrics;
    }

    /**
     * @return list<float>
     */
    private static function numbers(string $text): array
    {
        $parts = preg_split('~\s+~', trim($text));

        return array_map(floatval(...), is_array($parts) ? $parts : []);
    }
}
