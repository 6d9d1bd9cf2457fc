<?php

declare(strict_types=1);

namespace App\Health\Probes;

use App\Estate\Models\Cluster;
use App\Metrics\Signals\Signal;
use App\Metrics\Signals\SignalSource;
use DateTimeZone;
use Fulcrion\Core\Health\ProbeScale;

/**
 * What probes tell of clusters: times as long as when idle, and runs that failed.
 */
final readonly class ProbeSignals implements SignalSource
{
    private const TIMES = 'times';

    private const FAILED = 'failed';

    /** What idle is, is known from so long before. */
    private const SCALE = 28 * 86_400;

    private const DELAY = 300;

    public function __construct(private ProbeBook $probes)
    {
    }

    public function prefix(): string
    {
        return 'probe';
    }

    public function signals(Cluster $cluster): array
    {
        return $this->probes->of($cluster) === null ? [] : [
            new Signal('probe:'.self::TIMES, 'Probe', 'times its idle time', 1.0, 4.0, false),
            new Signal('probe:'.self::FAILED, 'Runs of the probe that failed', '', 1.0, 1.0, false),
        ];
    }

    public function delaySeconds(Cluster $cluster): int
    {
        return self::DELAY;
    }

    public function values(Cluster $cluster, string $key, int $from, int $to, int $step): array
    {
        $probe = $this->probes->of($cluster);
        if ($probe === null || ! in_array($key, [self::TIMES, self::FAILED], true)) {
            return [];
        }
        $scale = ProbeScale::of($this->probes->runs($probe, $from - self::SCALE, $to), new DateTimeZone('UTC'));
        $values = array_fill(0, max(0, intdiv($to - $from + $step - 1, $step)), null);
        foreach ($scale->runs as $run) {
            $value = $key === self::TIMES ? $scale->ratio($run) : ($run->tookUs === null ? 1.0 : 0.0);
            if ($run->at < $from || $value === null) {
                continue;
            }
            // A run tells of the time until the next one is due.
            [$first, $last] = [intdiv($run->at - $from, $step), intdiv(min($to - 1, $run->at + $probe->everySeconds - 1) - $from, $step)];
            for ($place = $first; $place <= $last; $place++) {
                $values[$place] = $key === self::TIMES ? max($values[$place] ?? 0.0, $value) : ($values[$place] ?? 0.0) + $value;
            }
        }

        return ['' => array_values($values)];
    }
}
