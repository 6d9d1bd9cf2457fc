<?php

declare(strict_types=1);

namespace App\Capacity\Application;

use App\Capacity\Charts\AvailabilityFigure;
use App\Capacity\Charts\StorageFigure;
use App\Estate\Models\Cluster;
use App\Metrics\Places\PlaceError;
use App\Metrics\Store\ReadingSilence;
use DateTimeZone;
use Fulcrion\Core\Capacity\Outage;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Time\Window;

/**
 * What the page Storage says of a cluster.
 */
final readonly class StoragePage
{
    private const MOST_GROWN = 10;

    public function __construct(
        private StoragePlaces $places,
        private Outages $outages,
        private StoreRequests $requests,
        private ReadingSilence $silence,
    ) {
    }

    /**
     * @param  string|null  $asked name of a place
     * @return array<string, mixed>
     */
    public function of(Cluster $cluster, Window $window, ?string $asked, int $now, DateTimeZone $zone): array
    {
        $places = $this->places->of($cluster, $now);
        $shown = $places[0] ?? null;
        foreach ($places as $place) {
            $shown = $place->name === $asked ? $place : $shown;
        }
        $causes = $shown === null || $shown->name !== CapacityStore::WHOLE ? [] : $this->places->causes($cluster, $shown->steps);
        $spare = $this->places->spare($cluster);
        $outages = $this->outages->of($cluster, $window->from, $window->to);

        return [
            'cluster' => $cluster,
            'places' => $places,
            'shown' => $shown,
            'sentence' => self::sentence($cluster, $places, $outages, $window),
            'figure' => $shown === null ? null : StorageFigure::draw($shown, $cluster, $causes,
                $shown->name === CapacityStore::WHOLE ? $spare : [], $zone),
            'causes' => $causes,
            'grown' => array_slice($this->places->grown($cluster, $now), 0, self::MOST_GROWN),
            'spare' => $spare,
            'outages' => $outages,
            'availability' => AvailabilityFigure::draw($outages, $window, $zone),
            'silences' => $this->silences($cluster, $window, $now),
            'requests' => $this->requests->of($cluster, $window->from, $window->to),
        ];
    }

    /**
     * Times in which hosts did not answer who reads them: whether they were there is not known.
     *
     * @return list<array{non-empty-list<string>, int, int}> hosts, from and to
     */
    private function silences(Cluster $cluster, Window $window, int $now): array
    {
        try {
            return $this->silence->of($cluster, $window->from, min($now, $window->to));
        } catch (PlaceError) {
            return [];
        }
    }

    /**
     * @param  list<StoragePlace>  $places
     * @param  list<Outage>  $outages
     */
    private static function sentence(Cluster $cluster, array $places, array $outages, Window $window): string
    {
        $first = $places[0] ?? null;
        $minutes = array_sum(array_map(static fn (Outage $one): float => $one->seconds, $outages)) / 60;
        $answered = $minutes > 0 ? " {$cluster->name} answered nobody for ".Quantity::count(round($minutes)).' minutes in this window' : '';
        if ($first === null) {
            return "How full {$cluster->name} is, is not known yet.{$answered}";
        }
        $what = ucfirst($first->title($cluster->name));
        $days = $first->forecast?->days;

        return ($first->share() >= 1.0 ? "{$what} is full" : ($days === null
            ? "{$what} is ".Quantity::percent($first->share()).' full'.($first->forecast === null ? '' : ' and will not be full soon')
            : "{$what} will be full in ".StoragePlace::days($days))).'.'.$answered;
    }
}
