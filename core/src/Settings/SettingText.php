<?php

declare(strict_types=1);

namespace Fulcrion\Core\Settings;

/**
 * Settings of a Linux host as its kernel tells them: sysctl values by their own names (Documentation/admin-guide/sysctl), large pages
 * (admin-guide/mm/transhuge.rst), queues of disks (block/queue-sysfs), mounts and limits (proc(5)).
 */
final class SettingText
{
    /** Files that hold one value, by the name of the setting. */
    public const VALUES = [
        'vm.swappiness' => '/proc/sys/vm/swappiness',
        'vm.dirty_ratio' => '/proc/sys/vm/dirty_ratio',
        'vm.dirty_background_ratio' => '/proc/sys/vm/dirty_background_ratio',
        'vm.overcommit_memory' => '/proc/sys/vm/overcommit_memory',
        'vm.max_map_count' => '/proc/sys/vm/max_map_count',
        'vm.nr_hugepages' => '/proc/sys/vm/nr_hugepages',
        'vm.zone_reclaim_mode' => '/proc/sys/vm/zone_reclaim_mode',
        'net.core.somaxconn' => '/proc/sys/net/core/somaxconn',
        'net.core.rmem_max' => '/proc/sys/net/core/rmem_max',
        'net.core.wmem_max' => '/proc/sys/net/core/wmem_max',
        'net.ipv4.tcp_max_syn_backlog' => '/proc/sys/net/ipv4/tcp_max_syn_backlog',
        'fs.file-max' => '/proc/sys/fs/file-max',
        'fs.aio-max-nr' => '/proc/sys/fs/aio-max-nr',
        'kernel.numa_balancing' => '/proc/sys/kernel/numa_balancing',
        'kernel.osrelease' => '/proc/sys/kernel/osrelease',
    ];

    /** Files in which the value that holds stands in brackets among those that are possible. */
    public const CHOICES = [
        'transparent_hugepage.enabled' => '/sys/kernel/mm/transparent_hugepage/enabled',
        'transparent_hugepage.defrag' => '/sys/kernel/mm/transparent_hugepage/defrag',
    ];

    public const MOUNTS = '/proc/mounts';

    /** Limits of the process that serves. */
    public const LIMITS = 'limits';

    /** Yes or no, or what chronyc tracking says. */
    public const SYNCHRONISED = 'time_synchronised';

    public const LEAP = 'Leap status';

    /** Of each disk. */
    public const QUEUES = '/sys/block/*/queue/{read_ahead_kb,scheduler}';

    private const DISK = '~^/sys/block/([\w!-]+)/queue/(read_ahead_kb|scheduler)$~D';

    /** Devices no table lies on. */
    private const NO_DISK = '~^(loop|ram|zram|sr|fd)\d~';

    private const SYSTEMS = ['ext3', 'ext4', 'xfs', 'btrfs', 'zfs', 'nfs', 'nfs4', 'f2fs'];

    private const LONGEST = 500;

    /**
     * @param  array<string, string|null>  $files text by path, and by the two other names; null where it could not be read
     * @return array<string, string|null> by name; null where it is there and cannot be read
     */
    public static function read(array $files): array
    {
        $settings = [];
        foreach (self::VALUES as $name => $path) {
            if (array_key_exists($path, $files)) {
                $settings[$name] = self::line($files[$path]);
            }
        }
        foreach (self::CHOICES as $name => $path) {
            if (array_key_exists($path, $files)) {
                $settings[$name] = self::chosen($files[$path]);
            }
        }
        foreach ($files as $path => $text) {
            if (preg_match(self::DISK, $path, $match) === 1 && preg_match(self::NO_DISK, $match[1]) !== 1) {
                $settings["block.{$match[1]}.{$match[2]}"] = $match[2] === 'scheduler' ? self::chosen($text) : self::line($text);
            }
        }
        if (array_key_exists(self::LIMITS, $files)) {
            $settings['limit.open_files'] = preg_match('~^Max open files\s+(\d+|unlimited)\s~m', (string) $files[self::LIMITS],
                $match) === 1
                ? $match[1] : null;
        }
        if (array_key_exists(self::SYNCHRONISED, $files)) {
            $settings['time.synchronised'] = self::synchronised($files[self::SYNCHRONISED]);
        }

        return $settings + self::mounts($files[self::MOUNTS] ?? '');
    }

    /**
     * @return array<string, string> options by the place of the mount
     */
    private static function mounts(string $text): array
    {
        $mounts = [];
        foreach (explode("\n", $text) as $line) {
            $parts = explode(' ', $line);
            if (count($parts) >= 4 && in_array($parts[2], self::SYSTEMS, true)) {
                // Spaces in a path are written as octal numbers there.
                $place = stripcslashes($parts[1]);
                $mounts[mb_strcut("mount.{$place}", 0, 190)] = mb_strcut($parts[3], 0, self::LONGEST);
            }
        }

        return $mounts;
    }

    private static function synchronised(?string $text): ?string
    {
        if ($text === null || preg_match('~^'.self::LEAP.'\s*:\s*(.*\S)~m', $text, $match) !== 1) {
            return $text;
        }

        // A second that is put in or left out is told beforehand: normal, too.
        return strcasecmp($match[1], 'Not synchronised') === 0 ? 'no' : 'yes';
    }

    private static function line(?string $text): ?string
    {
        $line = trim((string) $text);

        return $line === '' ? null : mb_strcut((string) preg_replace('~\s+~', ' ', $line), 0, self::LONGEST);
    }

    private static function chosen(?string $text): ?string
    {
        return preg_match('~\[([\w-]+)\]~', (string) $text, $match) === 1 ? $match[1] : self::line($text);
    }
}
