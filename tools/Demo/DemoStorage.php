<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Demo;

use App\Cost\Application\Quantities;
use App\Cost\Application\StoredBytes;
use App\Estate\Models\Cluster;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\PriceKind;
use Illuminate\Support\Facades\DB;

/**
 * How large the tables of the demo world were: as they are today, less a load each Sunday, and backups as somebody wrote them down.
 */
final readonly class DemoStorage
{
    private const DAY = 86_400;

    private const DAYS = 60;

    /** What each Sunday brought, as a part of what there is today. */
    private const STEP = 0.025;

    public function __construct(private StoredBytes $stored)
    {
    }

    public function write(int $now): void
    {
        foreach (Cluster::query()->whereIn('slug', ['fernhill', 'wren'])->get() as $cluster) {
            if (DB::table('stored_tables')->where('cluster_id', $cluster->id)->where('day_at', '<', $now - 2 * self::DAY)->exists()) {
                continue;
            }
            $this->stored->measure($cluster, $now);
            $today = DB::table('stored_tables')->where('cluster_id', $cluster->id)->max('day_at');
            $tables = DB::table('stored_tables')->where('cluster_id', $cluster->id)->where('day_at', $today)->pluck('bytes', 'path')->all();
            $steps = 0;
            for ($day = (int) $today - self::DAY; $day > (int) $today - self::DAYS * self::DAY; $day -= self::DAY) {
                $steps += (int) (gmdate('N', $day + self::DAY) === '7');
                $rows = [];
                foreach ($tables as $path => $bytes) {
                    $rows[] = [
                        'cluster_id' => $cluster->id, 'day_at' => $day, 'path' => $path, 'is_modelled' => true,
                        'bytes' => (int) round($bytes * (1 - ($cluster->slug === 'fernhill' ? self::STEP * $steps : 0.0))),
                    ];
                }
                DB::table('stored_tables')->insert($rows);
            }
            if ($cluster->slug === 'fernhill') {
                $from = (int) $today - (self::DAYS - 1) * self::DAY;
                Quantities::add($cluster, PriceKind::BackupMonth, '', BigDecimal::of(640), $from, null, 'Marta Ellwood');
            }
        }
    }
}
