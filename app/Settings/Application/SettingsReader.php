<?php

declare(strict_types=1);

namespace App\Settings\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SettingSource;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Metrics\Events\HostSettingsSent;
use App\Metrics\Store\ThisHost;
use Fulcrion\Core\Settings\SettingText;

/**
 * Reads how hosts and servers are set: what agents sent, what servers and practice clusters tell, and this host itself.
 */
final readonly class SettingsReader
{
    public function __construct(private Clusters $clusters, private SettingsStore $store, private ThisHost $here)
    {
    }

    /** Agents send what their kernel says as it is. */
    public function handle(HostSettingsSent $sent): void
    {
        $this->store->take($sent->cluster, $sent->host, 'host', SettingText::read($sent->files), $sent->at);
    }

    /**
     * @return int|null settings that are otherwise than before; null where the cluster tells none
     *
     * @throws SourceError
     */
    public function read(Cluster $cluster, int $now): ?int
    {
        $source = $this->source($cluster);
        if ($source === null) {
            return null;
        }
        $changed = 0;
        foreach ($source->settings() as $host => $settings) {
            $changed += $this->store->take($cluster, $host === '' ? $this->server($cluster) : (string) $host,
                $host === '' ? 'server' : 'host', $settings, $now);
        }

        return $changed + ($cluster->is_own ? $this->store->take($cluster, $this->here->name(), 'host',
            SettingText::read($this->here->settings()), $now) : 0);
    }

    public function source(Cluster $cluster): ?SettingSource
    {
        return $this->clusters->as(Actor::system(SystemActor::Settings, 'how hosts are set'))->settings($cluster);
    }

    /** How the host of a server is called: what this one is called where it is ours. */
    public function server(Cluster $cluster): string
    {
        return $cluster->is_own ? $this->here->name() : mb_strcut((string) $cluster->host, 0, 120);
    }
}
