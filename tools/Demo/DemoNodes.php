<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Demo;

use App\Estate\Connectors\PracticeClusters;
use App\Estate\Models\Cluster;
use App\Health\Application\PracticeNodes;
use App\Settings\Application\SettingsStore;
use Fulcrion\Core\Health\NodeCondition;
use Fulcrion\Core\Settings\NodeSettings;
use Fulcrion\Practice\Storage\NodeBook;
use Fulcrion\Practice\Storage\Warehouse;
use Illuminate\Support\Facades\DB;

/**
 * The nodes of the demo world: one disk that does half of what it should, and six hours in which nobody read those of Wren.
 */
final readonly class DemoNodes
{
    /** The node whose disk is slow, and the day of the history it has been since, in the morning. */
    public const SLOW_NODE = 7;

    public const SLOW_SINCE_DAY = 22;

    private const SLOW_SINCE_SECONDS = 4 * 3_600;

    private const DISK_SHARE = 0.5;

    public const SILENT_DAY = 20;

    public const SILENT_FROM = 9 * 3_600;

    public const SILENT_SECONDS = 6 * 3_600;

    /** Set otherwise than the others since before the history began. */
    public const FAULTY_HOST = 'fern-04';

    /** The other one that is, since it was installed again. */
    public const REINSTALLED_HOST = 'fern-11';

    private const REINSTALLED_DAY = 12;

    private const SETTINGS = [
        self::FAULTY_HOST => ['transparent_hugepage.enabled' => 'always', 'block.data.read_ahead_kb' => '128'],
        self::REINSTALLED_HOST => ['limit.open_files' => '1024'],
    ];

    private const DAY = 86_400;

    public function __construct(private PracticeNodes $nodes, private SettingsStore $settings)
    {
    }

    /** First second of a day of the history, which are counted from 1. */
    private static function day(int $now, int $day): int
    {
        return $now - $now % self::DAY - (DemoHistory::DAYS - $day) * self::DAY;
    }

    public static function slowSince(int $now): int
    {
        return self::day($now, self::SLOW_SINCE_DAY) + self::SLOW_SINCE_SECONDS;
    }

    /** When the collector of Wren was not there. */
    public static function silentFrom(int $now): int
    {
        return self::day($now, self::SILENT_DAY) + self::SILENT_FROM;
    }

    /** How they were read during the history. */
    private function set(Cluster $cluster, int $now): void
    {
        foreach (NodeBook::settings(Warehouse::open(PracticeClusters::root($cluster->slug))) as $host => $settings) {
            if ($host === self::REINSTALLED_HOST) {
                $before = NodeSettings::of([$host], [])[$host];
                $this->settings->take($cluster, $host, 'host', $before, self::day($now, 1));
            }
            $this->settings->take($cluster, $host, 'host', $settings,
                self::day($now, $host === self::REINSTALLED_HOST ? self::REINSTALLED_DAY : 1) + 5 * 3_600);
        }
    }

    public function write(int $now): void
    {
        $start = self::day($now, 1);
        foreach (['fernhill' => 'fern', 'wren' => 'wren'] as $slug => $prefix) {
            $cluster = Cluster::query()->where('slug', $slug)->firstOrFail();
            if (DB::table('practice_nodes')->where('cluster_id', $cluster->id)->exists()) {
                continue;
            }
            NodeBook::write(Warehouse::open(PracticeClusters::root($slug)), $prefix, $slug !== 'fernhill' ? [] : [
                new NodeCondition(self::SLOW_NODE - 1, self::DISK_SHARE, self::slowSince($now) * 1_000_000),
            ], self::SETTINGS);
            $this->set($cluster, $now);
            if ($slug === 'wren') {
                $silent = self::silentFrom($now);
                $this->nodes->span($cluster, $start, $silent);
                $this->nodes->span($cluster, $start, $silent + self::SILENT_SECONDS, $silent + self::SILENT_SECONDS);
            }
            $this->nodes->span($cluster, $start, $now - $now % PracticeNodes::INTERVAL);
        }
    }
}
