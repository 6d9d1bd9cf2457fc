<?php

declare(strict_types=1);

namespace App\Metrics\Store;

use App\Metrics\Places\Places;
use Fulcrion\Core\Metrics\BusyProcess;

/**
 * The busiest processes of hosts, once a minute, for two weeks.
 */
final readonly class ProcessStore
{
    private const MINUTE = 60;

    private const KEPT_SECONDS = 14 * 86_400;

    /** Those of so long before a moment tell of it. */
    private const NEAR = 300;

    public function __construct(private Places $places)
    {
    }

    /**
     * @param  list<BusyProcess>  $processes
     */
    public function keep(int $clusterId, string $host, int $at, array $processes): void
    {
        if ($processes !== []) {
            $this->places->of($clusterId)->table('host_processes')->insertOrIgnore([
                'cluster_id' => $clusterId, 'host' => $host, 'at' => $at - $at % self::MINUTE,
                'body' => (string) gzdeflate(json_encode($processes, JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE), 6),
            ]);
        }
    }

    /**
     * @return list<BusyProcess> the busiest first; none where nothing is known of that moment
     */
    public function at(int $clusterId, string $host, int $at): array
    {
        $body = $this->places->of($clusterId)->table('host_processes')->where('cluster_id', $clusterId)->where('host', $host)
            ->where('at', '<=', $at)->where('at', '>', $at - self::NEAR)->orderByDesc('at')->value('body');
        $list = is_string($body) ? json_decode((string) @gzinflate($body), true) : null;
        $processes = [];
        foreach (is_array($list) ? $list : [] as $one) {
            $processes[] = BusyProcess::read($one);
        }

        return array_values(array_filter($processes));
    }

    public function prune(int $clusterId, int $now): void
    {
        $this->places->of($clusterId)->table('host_processes')->where('cluster_id', $clusterId)
            ->where('at', '<', $now - self::KEPT_SECONDS)->delete();
    }
}
