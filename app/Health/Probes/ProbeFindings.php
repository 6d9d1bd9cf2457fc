<?php

declare(strict_types=1);

namespace App\Health\Probes;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\Findings;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\Weight;
use App\Platform\Support\MomentStyle;
use DateTimeZone;
use Fulcrion\Core\Health\ProbeScale;
use Fulcrion\Core\Health\Struggle;
use Fulcrion\Core\Health\Struggles;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Usage\Calendar;

/**
 * What probes find: hours in which a system struggles week after week, and probes that fail or are late.
 */
final readonly class ProbeFindings
{
    public const SOURCE = 'probes';

    private const HISTORY = 28 * 86_400;

    /** So many times its idle time everybody feels. */
    private const ACT = 4.0;

    private const USERS = 3;

    public function __construct(
        private Findings $findings,
        private ProbeBook $probes,
        private UsualRuns $runs,
        private SlowHours $slow,
        private Calendar $calendar,
    ) {
    }

    public function report(Cluster $cluster, int $now): void
    {
        $probe = $this->probes->of($cluster);
        if ($probe === null || ! $probe->isOn) {
            $this->findings->reconcile($cluster, self::SOURCE, []);

            return;
        }
        $zone = $this->calendar->zone;
        $scale = ProbeScale::of($this->probes->runs($probe, $now - self::HISTORY, $now), $zone);
        $reported = array_map(
            fn (Struggle $one): Reported => $this->struggles($cluster, $one, $zone),
            Struggles::of($scale, $zone),
        );
        foreach ($this->slow->of($cluster, $scale, $now) as $one) {
            $reported[] = self::own($cluster, $one, $zone);
        }
        $last = $this->probes->last($probe);
        if ($probe->lastError !== null) {
            $reported[] = self::broken($cluster, 'probe-failed', "The probe of {$cluster->name} fails: {$probe->lastError}",
                'Look at what it says; another statement can be set on the page Is it the system?');
        } elseif ($probe->isLate($last, $now)) {
            $reported[] = self::broken($cluster, 'probe-late', "The probe of {$cluster->name} has not run "
                .($last === null ? 'yet' : 'since '.moment($last * 1_000_000, MomentStyle::Minute, $zone)),
                'See whether the scheduler of this application runs, and whether the cluster answers at all.');
        }
        $this->findings->reconcile($cluster, self::SOURCE, $reported);
    }

    private function struggles(Cluster $cluster, Struggle $one, DateTimeZone $zone): Reported
    {
        $users = [];
        foreach ($this->runs->users($cluster, $one->lastFrom, $one->lastTo, self::USERS) as $user => $load) {
            $users[] = "{$user}, ".Quantity::digits($load).' at work';
        }
        $waiting = $this->runs->waiting($cluster, $one->lastFrom, $one->lastTo);

        return new Reported(
            'struggles',
            FindingSubject::item("{$cluster->name}, {$one->when}"),
            Severity::of($one->ratio >= self::ACT),
            "{$cluster->name} struggles {$one->when}: the probe takes ".Quantity::digits($one->ratio).' times its idle time, in '
                ."{$one->weeks} of {$one->known} weeks",
            [
                new Evidence('probe, times its idle time', Quantity::digits($one->ratio)),
                new Evidence('runs', Quantity::count($one->runs)),
                new Evidence('the last time', moment($one->lastFrom * 1_000_000, MomentStyle::Minute, $zone)),
                ...($waiting === null ? [] : [new Evidence('of all time in flight then, waiting in queues', Quantity::percent($waiting))]),
                ...($users === [] ? [] : [new Evidence('who had most at work then', implode('; ', $users))]),
                Evidence::remedy($waiting !== null && $waiting >= 0.5
                    ? 'Statements wait for a place and not for a machine: move what can wait to another hour, or give who waits a queue of '
                        .'their own.'
                    : 'Move what can wait to another hour, or make what runs then read less.'),
            ],
            Weight::none(),
            '',
        );
    }

    /**
     * @param  array{fingerprint: string, hour: int, user: string, now: StatementFacts, usual: StatementFacts}  $one
     */
    private static function own(Cluster $cluster, array $one, DateTimeZone $zone): Reported
    {
        [$now, $usual] = [$one['now'], $one['usual']];
        $read = $usual->bytesRead > 0 ? $now->bytesRead / $usual->bytesRead : 0.0;
        $times = Quantity::digits($now->ranUs() / max(1.0, $usual->ranUs()));

        return new Reported(
            'slow-by-itself',
            FindingSubject::statement($one['fingerprint']),
            Severity::Watch,
            'On '.moment($one['hour'] * 1_000_000, MomentStyle::Minute, $zone)." a statement of {$one['user']} took {$times} times as long "
                .'as usual while the probe was steady'.($read >= 1.5 ? ': it read '.Quantity::digits($read).' times as much' : ''),
            [
                new Evidence('runs in that hour', (string) $now->executions),
                new Evidence('took, each', Quantity::duration($now->ranUs()).'; '.Quantity::duration($usual->ranUs()).' is usual'),
                ...($usual->bytesRead <= 0 ? [] : [new Evidence('read, each', Quantity::bytes($now->bytesRead).'; '
                    .Quantity::bytes($usual->bytesRead).' is usual')]),
                new Evidence('cluster', $cluster->name),
                Evidence::remedy('It is this statement and not the system. Look at what it was asked then: its range of time, and whether '
                    .'a filter leaves chunks out.'),
            ],
            Weight::none(),
            '',
        );
    }

    private static function broken(Cluster $cluster, string $rule, string $problem, string $remedy): Reported
    {
        return new Reported($rule, FindingSubject::item("probe of {$cluster->name}"), Severity::Act, $problem, [Evidence::remedy($remedy)],
            Weight::none(), '', urgent: true);
    }
}
