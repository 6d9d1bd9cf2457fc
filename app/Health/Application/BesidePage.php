<?php

declare(strict_types=1);

namespace App\Health\Application;

use App\Estate\Models\Cluster;
use App\Health\Charts\StripsFigure;
use App\Metrics\Signals\HostMeasure;
use App\Metrics\Store\HostReadings;
use App\Platform\Figures\Figure;
use App\Platform\Support\AskedWindow;
use App\Platform\Support\MomentStyle;
use DateTimeZone;
use Fulcrion\Core\Health\Outlier;
use Fulcrion\Core\Text\Quantity;

/**
 * Hosts of a cluster beside each other, with what is to be said of them.
 */
final readonly class BesidePage
{
    /** A host with this many times the work of its neighbours has more than its part. */
    private const MUCH = 1.25;

    /**
     * @param  list<array{Outlier, int|null}>  $slow hosts that take more for the same work, with since when
     */
    private function __construct(public HostsBeside $beside, public ?Figure $figure, public array $slow, public string $sentence)
    {
    }

    public static function of(
        Cluster $cluster,
        HostMeasure $measure,
        AskedWindow $asked,
        int $now,
        DateTimeZone $zone,
        HostReadings $store,
    ): self {
        $beside = HostsBeside::of($cluster, $measure, $asked->window, $now, $store);
        $slow = HostsBeside::slow($cluster, $now, $store);
        $addresses = [];
        foreach (array_keys($beside->differences) as $host) {
            $addresses[$host] = address('host.show').'?'.http_build_query(['cluster' => $cluster->slug, 'host' => $host,
                'window' => $asked->text]);
        }
        $odd = $measure->isCost() ? array_map(static fn (array $one): string => $one[0]->host, $slow) : [];

        return new self(
            $beside,
            $beside->isKnown() ? StripsFigure::draw($beside, $addresses, $odd, $zone) : null,
            $slow,
            self::sentence($cluster, $beside, $slow, $zone),
        );
    }

    /**
     * @param  list<array{Outlier, int|null}>  $slow
     */
    private static function sentence(Cluster $cluster, HostsBeside $beside, array $slow, DateTimeZone $zone): string
    {
        if (! $beside->isKnown()) {
            return count($beside->differences) < 4 ? "{$cluster->name} has too few hosts to hold against each other"
                : "Nothing is known of the hosts of {$cluster->name} in this window";
        }
        if ($beside->measure->isCost()) {
            if ($slow === []) {
                return 'No host of '.$cluster->name.' takes longer than its neighbours for the same work';
            }
            [$one, $since] = $slow[0];
            $others = count($slow) - 1;

            return "The disks of {$one->host} take ".Quantity::digits($one->factor).' times as long as its neighbours\' for the same bytes'
                .($since === null ? '' : ', since '.moment($since * 1_000_000, MomentStyle::Minute, $zone))
                .($others === 0 ? '' : ", and {$others} other ".($others === 1 ? 'host is' : 'hosts are').' slow too');
        }
        $host = (string) array_key_first($beside->differences);
        $factor = $beside->factor($host) ?? 1.0;
        $what = lcfirst($beside->measure->label());

        return match (true) {
            $factor >= self::MUCH => "{$host} has ".Quantity::digits($factor)." times as much as the hosts beside it: {$what}",
            $factor <= 1 / self::MUCH => "{$host} has only ".Quantity::percent($factor)." of what the hosts beside it have: {$what}",
            default => "The hosts of {$cluster->name} are much alike: {$what}",
        };
    }
}
