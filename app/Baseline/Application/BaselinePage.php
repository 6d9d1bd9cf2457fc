<?php

declare(strict_types=1);

namespace App\Baseline\Application;

use App\Baseline\Charts\RulersFigure;
use App\Baseline\Models\BaselineRun;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use Fulcrion\Core\Baseline\BaselineResource;
use Fulcrion\Core\Baseline\Compared;
use Fulcrion\Core\Baseline\ResourceUse;
use Fulcrion\Core\Statistics\Spread;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Time\Window;

/**
 * What the page Baseline says of a cluster.
 */
final readonly class BaselinePage
{
    /** Of what a resource can do: from here on it holds the cluster back. */
    private const NEAR = 0.7;

    private const WORDS = [BusiestHour::PROCESSORS => 'The processors', BusiestHour::DISK => 'The disks',
        BusiestHour::NETWORK => 'The network'];

    public function __construct(private BaselineBook $book, private BusiestHour $busiest)
    {
    }

    /**
     * @param  Cluster|null  $other a cluster it is held against
     * @return array<string, mixed>
     */
    public function of(Cluster $cluster, Window $window, ?Cluster $other): array
    {
        $measured = $this->book->measured($cluster);
        $now = array_map(static fn (array $runs): array => $runs[0]->values ?? [], $measured);
        $hour = $this->busiest->find($cluster, $window->from, $window->to);
        $uses = $now === [] || $hour === null ? [] : $this->busiest->uses($cluster, $hour, $now);
        try {
            $hosts = $this->book->hosts($cluster);
        } catch (SourceError) {
            $hosts = [];
        }

        return [
            'cluster' => $cluster,
            'hosts' => $hosts,
            'measured' => $measured,
            'open' => $this->book->open($cluster),
            'hour' => $hour,
            'uses' => $uses,
            'figure' => $uses === [] ? null : RulersFigure::draw($uses),
            'low' => Compared::low($now),
            'resources' => array_values(array_filter(BaselineResource::cases(), static fn (BaselineResource $one): bool
                => array_filter($now, static fn (array $values): bool => isset($values[$one->value])) !== [])),
            'others' => $other === null ? [] : self::middles($this->book->measured($other)),
            'other' => $other,
            'middles' => self::middles($measured),
            'sentence' => self::sentence($cluster, $measured, $uses),
        ];
    }

    /**
     * @param  array<string, non-empty-list<BaselineRun>>  $measured
     * @return array<string, float> the middle of the hosts, by resource
     */
    private static function middles(array $measured): array
    {
        $values = [];
        foreach ($measured as $runs) {
            foreach ($runs[0]->values ?? [] as $resource => $value) {
                $values[$resource][] = (float) $value;
            }
        }

        return array_map(Spread::median(...), $values);
    }

    /**
     * @param  array<string, non-empty-list<BaselineRun>>  $measured
     * @param  list<ResourceUse>  $uses
     */
    private static function sentence(Cluster $cluster, array $measured, array $uses): string
    {
        $worst = ResourceUse::bottleneck($uses);

        return match (true) {
            $measured === [] => "What the hardware of {$cluster->name} can do was not measured yet",
            $worst === null => "What the hardware of {$cluster->name} can do is measured; what is used of it is not known in this window",
            $worst->high >= self::NEAR => self::WORDS[$worst->resource]." of {$worst->host} ".($worst->resource === BusiestHour::NETWORK
                ? 'holds' : 'hold')." {$cluster->name} back: in the busiest hour "
                .Quantity::percent(min(1.0, $worst->high)).' of what '.($worst->resource === BusiestHour::NETWORK ? 'it' : 'they')
                    .' can do is used',
            default => "Nothing holds {$cluster->name} back: in the busiest hour at most ".Quantity::percent($worst->high)
                .' of what a resource can do is used',
        };
    }
}
