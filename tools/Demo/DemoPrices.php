<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Demo;

use App\Cost\Application\Prices;
use App\Estate\Models\Cluster;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\Price;
use Fulcrion\Core\Cost\PriceKind;
use Illuminate\Support\Facades\DB;

/**
 * What the clusters of the demo world cost: made-up prices, one of which changed two weeks ago in the middle of a day.
 */
final readonly class DemoPrices
{
    private const DAY = 86_400;

    public function __construct(private Prices $prices)
    {
    }

    public function write(int $now): void
    {
        $today = $now - $now % self::DAY;
        $changed = $today - 14 * self::DAY + 43_200;
        foreach (['fernhill' => '12', 'wren' => '4'] as $slug => $nodes) {
            $cluster = Cluster::query()->where('slug', $slug)->first();
            if ($cluster === null || DB::table('cost_prices')->where('cluster_id', $cluster->id)->exists()) {
                continue;
            }
            $this->add($cluster, PriceKind::NodeHour, '1.20', $today - 60 * self::DAY, $nodes);
            $isWeekend = $slug === 'wren' && gmdate('N', $changed) >= '6';
            $this->add($cluster, PriceKind::NodeHour, '1.26', $changed, $isWeekend ? '0' : $nodes);
            if ($slug === 'wren') {
                // Off from Friday night to Monday morning.
                for ($day = $today - 30 * self::DAY; $day < $today + 14 * self::DAY; $day += self::DAY) {
                    if (gmdate('N', $day) === '6' || gmdate('N', $day) === '1') {
                        $this->add($cluster, PriceKind::NodeHour, $day < $changed ? '1.20' : '1.26', $day, gmdate('N', $day) === '6'
                            ? '0' : $nodes);
                    }
                }
            }
            $this->add($cluster, PriceKind::StorageMonth, '0.024', $today - 60 * self::DAY);
            if ($slug === 'fernhill') {
                $this->add($cluster, PriceKind::BackupMonth, '0.011', $today - 60 * self::DAY);
                $this->add($cluster, PriceKind::WorkerHour, '0.11', $today - 60 * self::DAY);
                $this->add($cluster, PriceKind::ScannedTebibyte, '2.10', $today - 60 * self::DAY);
                $this->add($cluster, PriceKind::ScannedTebibyte, '1.60', $today - 60 * self::DAY, '1', '100');
                $this->add($cluster, PriceKind::MonthlyFee, '420', $today - 60 * self::DAY);
            }
        }
    }

    private function add(Cluster $cluster, PriceKind $kind, string $amount, int $from, string $quantity = '1', string $above = '0'): void
    {
        $this->prices->add(
            $cluster,
            new Price($kind, '', BigDecimal::of($amount), $from, BigDecimal::of($quantity), BigDecimal::of($above)),
            'Marta Ellwood',
        );
    }
}
