<?php

declare(strict_types=1);

namespace App\Health\Application;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\Findings;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\Weight;
use App\Metrics\Store\HostReadings;
use App\Metrics\Store\ReadingSilence;
use App\Platform\Support\MomentStyle;
use DateTimeZone;
use Fulcrion\Core\Health\Outlier;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Support\Facades\DB;

/**
 * Hosts that take more than their neighbours for the same work, and times in which nobody read any.
 */
final readonly class HostFindings
{
    public const SOURCE = 'hosts';

    /** What takes one and a half times as long is felt by everybody. */
    private const ACT = 1.5;

    private const GAPS_SECONDS = 14 * 86_400;

    private const BACK_SECONDS = 600;

    public function __construct(private Findings $findings, private HostReadings $readings, private ReadingSilence $silence)
    {
    }

    public function report(Cluster $cluster, int $now): void
    {
        $reported = array_map(
            static fn (array $one): Reported => self::slow($cluster, ...$one),
            HostsBeside::slow($cluster, $now, $this->readings),
        );
        foreach ($this->silence->of($cluster, $now - self::GAPS_SECONDS, $now) as [$hosts, $from, $to]) {
            $reported[] = self::silent($cluster, $hosts, $from, $to, $now);
        }
        $this->findings->reconcile($cluster, self::SOURCE, $reported);
    }

    private static function slow(Cluster $cluster, Outlier $one, ?int $since): Reported
    {
        $times = Quantity::digits($one->factor);
        $when = $since === null ? 'for as long as is known' : 'since '.self::at($since);

        return new Reported(
            'slow-disk',
            FindingSubject::item($one->host),
            Severity::of($one->factor >= self::ACT),
            "The disks of {$one->host} take {$times} times as long as its neighbours' for the same bytes, {$when}",
            [
                new Evidence('times as long', $times),
                new Evidence('since', $since === null ? 'before the last 28 days' : self::at($since)),
                new Evidence('difference, in units of how far its neighbours differ', Quantity::digits($one->score)),
                new Evidence('held against', 'the middle of the other hosts in the same hours of the last 28 days'
                    .($cluster->connector === 'practice' ? ', modelled' : '')),
                Evidence::remedy("Look at the disks of {$one->host}: errors in the kernel's log, a disk array that is rebuilt, a cable, "
                    .'another tenant on the same storage. Until it is mended each statement is as slow as this host.'),
            ],
            Weight::none(),
            '',
            urgent: true,
        );
    }

    /**
     * @param  list<string>  $hosts
     */
    private static function silent(Cluster $cluster, array $hosts, int $from, int $to, int $now): Reported
    {
        // A host may come back under another name.
        $new = DB::table('metric_sources')->where('cluster_id', $cluster->id)->whereNotIn('host', $hosts)
            ->whereBetween('first_at', [$from, $to + self::BACK_SECONDS])->distinct()->orderBy('host')->limit(10)->pluck('host')->all();
        $goesOn = $to >= $now;
        $who = count($hosts) === 1 ? $hosts[0] : (count($hosts).' hosts of '.$cluster->name);
        $for = Quantity::duration(($to - $from) * 1e6);

        return new Reported(
            'not-read',
            FindingSubject::item($who),
            Severity::of($goesOn),
            $goesOn ? "Nothing is known of {$who} for {$for}, since ".self::at($from)
                : "Nothing is known of {$who} from ".self::at($from).' to '.self::at($to).", for {$for}",
            [
                new Evidence('from', self::at($from)),
                new Evidence('to', $goesOn ? 'it goes on' : self::at($to)),
                new Evidence('hosts', implode(', ', $hosts)),
                ...($new === [] ? [] : [new Evidence('heard of since then, and not before', implode(', ', $new))]),
                Evidence::remedy('Find out why they were not read: the collector was stopped, or did not reach them. What they did in that '
                    .'time is not known, and is counted nowhere as if it were.'),
            ],
            Weight::none(),
            '',
            urgent: $goesOn,
        );
    }

    private static function at(int $second): string
    {
        return moment($second * 1_000_000, MomentStyle::Minute, new DateTimeZone('UTC')).' UTC';
    }
}
