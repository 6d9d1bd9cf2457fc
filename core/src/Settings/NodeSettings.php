<?php

declare(strict_types=1);

namespace Fulcrion\Core\Settings;

/**
 * How nodes of a practice cluster are set where nobody set them otherwise.
 */
final class NodeSettings
{
    private const VALUES = [
        'block.data.read_ahead_kb' => '4096',
        'block.data.scheduler' => 'none',
        'fs.file-max' => '9223372036854775807',
        'kernel.numa_balancing' => '0',
        'kernel.osrelease' => '6.1.0-28-amd64',
        'limit.open_files' => '1048576',
        'mount./data' => 'rw,noatime',
        'net.core.rmem_max' => '16777216',
        'net.core.somaxconn' => '4096',
        'net.core.wmem_max' => '16777216',
        'net.ipv4.tcp_max_syn_backlog' => '4096',
        'time.synchronised' => 'yes',
        'transparent_hugepage.defrag' => 'madvise',
        'transparent_hugepage.enabled' => 'never',
        'vm.dirty_background_ratio' => '5',
        'vm.dirty_ratio' => '10',
        'vm.max_map_count' => '262144',
        'vm.overcommit_memory' => '0',
        'vm.swappiness' => '1',
        'vm.zone_reclaim_mode' => '0',
    ];

    /**
     * @param  list<string>  $hosts
     * @param  array<string, array<string, string>>  $others what is otherwise, by host and setting
     * @return array<string, array<string, string>> by host
     */
    public static function of(array $hosts, array $others): array
    {
        return array_map(static fn (array $other): array => array_intersect_key($other, self::VALUES) + self::VALUES,
            array_combine($hosts, array_map(static fn (string $host): array => $others[$host] ?? [], $hosts)));
    }

    public static function has(string $name): bool
    {
        return isset(self::VALUES[$name]);
    }
}
