<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Demo;

use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Health\Probes\ProbeBook;
use App\Health\Probes\ProbeRunner;
use App\Platform\Models\User;
use Fulcrion\Core\Health\ProbeRun;
use Fulcrion\Core\Statistics\NormalDraw;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Probes of the demo world: on Fernhill with four weeks of runs, which take nine times their idle time on Monday mornings; on the store
 * itself with none, as they are measured there.
 */
final readonly class DemoProbes
{
    public const MINUTES = 5;

    public const STATEMENT = 'SELECT medium, count(*) AS readings, sum(kwh) AS kwh FROM energy.meter_reading GROUP BY medium';

    private const OWN_STATEMENT = "SELECT benchmark(200000, sha2('probe', 256)) AS done";

    /** Monday mornings, in minutes of the day. */
    private const BUSY = [390, 540];

    private const BUSY_TIMES = 8.3;

    private const SPREAD = 0.05;

    /** What the work of a weekday adds. */
    private const BY_DAY = 0.12;

    public function __construct(private ProbeBook $probes, private ProbeRunner $runner)
    {
    }

    public function write(int $now): void
    {
        $person = User::query()->where('email', (string) array_key_first(Team::PEOPLE))->firstOrFail();
        foreach (['fernhill' => self::STATEMENT, 'own-store' => self::OWN_STATEMENT] as $slug => $sql) {
            $cluster = Cluster::query()->where('slug', $slug)->first();
            if ($cluster === null || $this->probes->of($cluster) !== null) {
                continue;
            }
            try {
                $run = $this->runner->once($cluster, $person, $sql, '');
            } catch (SourceError) {
                // A store that cannot be asked now has no probe; it can be set on its page.
                continue;
            }
            $probe = $this->probes->set($cluster, $person, $sql, '', 60 * self::MINUTES);
            $this->probes->add($probe, $slug === 'fernhill' ? self::history($now, (int) $run->tookUs - $run->waitedUs) : [$run]);
        }
    }

    /**
     * @return list<ProbeRun>
     */
    private static function history(int $now, int $idleUs): array
    {
        $random = new Randomizer(new Mt19937(13));
        $uniform = static fn (): float => $random->getInt(1, 1_000_000) / 1_000_001;
        $runs = [];
        $start = $now - $now % 86_400 - (DemoHistory::DAYS - 1) * 86_400;
        for ($at = $start; $at < $now; $at += 60 * self::MINUTES) {
            $minute = intdiv($at % 86_400, 60);
            $day = (int) gmdate('N', $at);
            $isBusy = $day === 1 && $minute >= self::BUSY[0] && $minute < self::BUSY[1];
            $ran = $idleUs * exp(self::SPREAD * NormalDraw::of($uniform(), $uniform()))
                * (1 + ($day <= 5 && $minute >= 360 && $minute < 1_110 ? self::BY_DAY : 0.0));
            $waited = $isBusy ? ($idleUs * self::BUSY_TIMES - $ran) * exp(0.12 * NormalDraw::of($uniform(), $uniform())) : 0.0;
            [$gone, $back] = DemoHistory::outage($now);
            $runs[] = $at >= $gone && $at < $back ? new ProbeRun($at, null)
                : new ProbeRun($at, (int) ($ran + $waited), (int) $waited);
        }

        return $runs;
    }
}
