<?php

declare(strict_types=1);

namespace App\Capacity\Application;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\Findings;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\Weight;
use App\Platform\Support\MomentStyle;
use DateTimeZone;
use Fulcrion\Core\Capacity\Outage;
use Fulcrion\Core\Capacity\PartKind;
use Fulcrion\Core\Capacity\StorageStep;
use Fulcrion\Core\Capacity\StoredPart;
use Fulcrion\Core\Text\Quantity;

/**
 * Storage that will be full within weeks, and times in which a cluster answered nobody.
 */
final readonly class CapacityFindings
{
    public const SOURCE = 'capacity';

    private const WATCH_DAYS = 60;

    /** So long before somebody has to do something, as more space is not there the next day. */
    private const ACT_DAYS = 45;

    private const URGENT_DAYS = 14;

    private const ACT_SHARE = 0.95;

    private const BACK_SECONDS = 28 * 86_400;

    public function __construct(private Findings $findings, private StoragePlaces $places, private Outages $outages)
    {
    }

    public function report(Cluster $cluster, int $now): void
    {
        $reported = [];
        foreach ($this->places->of($cluster, $now) as $place) {
            $days = $place->forecast?->days;
            if ($place->share() >= self::ACT_SHARE || ($days !== null && $days <= self::WATCH_DAYS)) {
                $reported[] = $this->full($cluster, $place, $now);
            }
        }
        foreach ($this->outages->of($cluster, $now - self::BACK_SECONDS, $now) as $outage) {
            $reported[] = self::outage($cluster, $outage, $now);
        }
        $this->findings->reconcile($cluster, self::SOURCE, $reported);
    }

    private function full(Cluster $cluster, StoragePlace $place, int $now): Reported
    {
        $full = $place->forecast;
        $what = $place->title($cluster->name);
        $isFull = $place->share() >= self::ACT_SHARE;
        $days = $full->days ?? PHP_INT_MAX;
        // What grows and what could go is known of the whole cluster only.
        $isWhole = $place->name === CapacityStore::WHOLE;
        $grown = array_filter($isWhole ? $this->places->grown($cluster, $now) : [],
            static fn (StoredPart $part): bool => $part->kind !== PartKind::Backups);
        $spare = $isWhole ? $this->places->spare($cluster) : [];
        $evidence = [
            new Evidence('used', Quantity::bytes($place->last()->usedBytes).' of '.Quantity::bytes($place->last()->limitBytes).', '
                .Quantity::percent($place->share())),
            new Evidence('comes in a week', $place->growth()),
            new Evidence('full', $place->whenFull()),
            new Evidence('steps in the last 28 days',
                (string) count(array_filter($place->steps, static fn (StorageStep $step): bool => $step->bytes > 0))),
        ];
        foreach (array_slice($grown, 0, 3) as $part) {
            $evidence[] = new Evidence('grew in the last 28 days', "{$part->name()}: ".Quantity::bytes($part->bytes));
        }
        if ($spare !== []) {
            $evidence[] = new Evidence('can be given back', Quantity::bytes(array_sum(array_map(
                static fn ($finding): float => $finding->spare_bytes, $spare))).', by '.count($spare).' '
                .(count($spare) === 1 ? 'finding' : 'findings').' of the layout of tables');
        }
        $evidence[] = Evidence::remedy($spare !== []
            ? 'Give back what nobody needs: the page Storage lists it with the changes that do it. Then ask whether what grows has to stay.'
            : 'Ask whether what grows has to stay, and order more space before the day it is full.');

        return new Reported(
            'full',
            FindingSubject::item($isWhole ? 'storage' : $place->name),
            Severity::of($isFull || $days <= self::ACT_DAYS),
            ucfirst($what).' '.($place->share() >= 1.0 ? 'is full' : ($full?->days === null
                ? 'is '.Quantity::percent($place->share()).' full' : 'will be full '.$place->whenFull())),
            $evidence,
            Weight::none(),
            '',
            urgent: $isFull || $days <= self::URGENT_DAYS,
        );
    }

    private static function outage(Cluster $cluster, Outage $outage, int $now): Reported
    {
        $utc = new DateTimeZone('UTC');
        $goesOn = $outage->to + Outages::INTERVAL >= $now;
        $at = static fn (int $second): string => moment($second * 1_000_000, MomentStyle::Minute, $utc);

        return new Reported(
            'unavailable',
            FindingSubject::item('unavailable '.gmdate('Y-m-d H:i', $outage->from)),
            Severity::of($goesOn),
            $goesOn ? "{$cluster->name} has answered nobody since ".$at($outage->from).' UTC'
                : "{$cluster->name} answered nobody for about ".round($outage->seconds / 60).' minutes, between '.$at($outage->from)
                    .' and '.$at($outage->to).' UTC',
            [
                new Evidence('lasted', 'about '.Quantity::duration($outage->seconds * 1e6)
                    .', by the part of the statements that failed in each five minutes'),
                new Evidence('statements that failed', (string) $outage->failed),
                new Evidence('runs of the probe that failed', (string) $outage->probes),
                Evidence::remedy('Look what else happened at that time, and note it with the incident: its page and the page of the moment '
                    .'show changes, settings and hosts beside it.'),
            ],
            Weight::none(),
            '',
            urgent: $goesOn,
        );
    }
}
