<?php

declare(strict_types=1);

namespace App\Metrics\Events;

use App\Estate\Models\Cluster;

/**
 * An agent sent how its host is set.
 */
final readonly class HostSettingsSent
{
    /**
     * @param  array<string, string|null>  $files text by path, as the kernel has it; null where it could not be read
     */
    public function __construct(public Cluster $cluster, public string $host, public array $files, public int $at)
    {
    }
}
