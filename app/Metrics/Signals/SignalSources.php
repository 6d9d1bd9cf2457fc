<?php

declare(strict_types=1);

namespace App\Metrics\Signals;

use App\Estate\Models\Cluster;

/**
 * Who knows of signals: each capability registers what it has.
 */
final class SignalSources
{
    /** @var array<string, SignalSource> */
    private array $sources = [];

    public function register(SignalSource $source): void
    {
        $this->sources[$source->prefix()] = $source;
    }

    /**
     * @return list<Signal>
     */
    public function of(Cluster $cluster): array
    {
        return array_merge(...array_map(
            static fn (SignalSource $source): array => $source->signals($cluster),
            array_values($this->sources),
        ));
    }

    /**
     * @return array<string, Signal> by key, for whoever looks up many
     */
    public function byKey(Cluster $cluster): array
    {
        $signals = $this->of($cluster);

        return array_combine(array_map(static fn (Signal $one): string => $one->key, $signals), $signals);
    }

    public function find(Cluster $cluster, string $key): ?Signal
    {
        foreach ($this->source($key)?->signals($cluster) ?? [] as $signal) {
            if ($signal->key === $key) {
                return $signal;
            }
        }

        return null;
    }

    public function delaySeconds(Cluster $cluster, string $key): int
    {
        return $this->source($key)?->delaySeconds($cluster) ?? 0;
    }

    /**
     * @return array<array-key, list<float|null>> one a step, by host; nothing of what nobody knows of
     */
    public function values(Cluster $cluster, string $key, int $from, int $to, int $step): array
    {
        return $from >= $to ? [] : $this->source($key)?->values($cluster, self::own($key), $from, $to, $step) ?? [];
    }

    /** Steps of time nodes of practice clusters are computed in are longer than those hosts are read in. */
    public static function step(Cluster $cluster): int
    {
        return $cluster->connector === 'practice' ? 300 : 60;
    }

    private function source(string $key): ?SignalSource
    {
        return $this->sources[strstr($key, ':', true)] ?? null;
    }

    private static function own(string $key): string
    {
        return substr($key, strlen((string) strstr($key, ':', true)) + 1);
    }
}
