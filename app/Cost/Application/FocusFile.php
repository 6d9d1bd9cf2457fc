<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Estate\Models\Cluster;
use App\Telemetry\Usage\UsageParquet;
use App\Telemetry\Usage\UsageScope;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\Bill\ChargeCategory;
use Fulcrion\Core\Cost\CostLine;
use Fulcrion\Core\Cost\PriceKind;
use Fulcrion\Core\Usage\Calendar;

/**
 * What clusters cost as lines of the open format, FOCUS 1.0: one for each thing that is paid for and each day, not rounded.
 */
final readonly class FocusFile
{
    public function __construct(private Prices $prices, private Calendar $calendar)
    {
    }

    /**
     * @return list<array<string, string>>
     */
    public function rows(UsageScope $scope, int $now): array
    {
        $rows = [];
        foreach (Cluster::query()->orderBy('name')->get() as $cluster) {
            if ($scope->cluster !== null && ! $cluster->is($scope->cluster)) {
                continue;
            }
            $currency = $this->prices->rule($cluster)->currency;
            [$from, $end] = $this->calendar->span($scope->days);
            $to = min($end, max($from + 1, $now));
            foreach (ClusterCost::daily($cluster, $this->prices->book($cluster), $from, $to, $this->calendar) as $line) {
                $rows[] = self::row($cluster, $currency, $line, $this->calendar);
            }
        }

        return $rows;
    }

    /**
     * @param  list<array<string, string>>  $rows
     */
    public static function parquet(array $rows): string
    {
        return UsageParquet::of($rows, names: array_keys(self::empty()));
    }

    /**
     * @return array<string, string>
     */
    private static function row(Cluster $cluster, string $currency, CostLine $line, Calendar $calendar): array
    {
        $at = static fn (int $second): string => gmdate('Y-m-d\TH:i:s\Z', $second);
        $month = $calendar->month($line->from);
        $isDiscount = $line->kind === PriceKind::Discount;
        $amount = (string) $line->amount->stripTrailingZeros();
        [$quantity, $price, $unit] = $isDiscount ? ['', '', '']
            : [(string) $line->quantity->stripTrailingZeros(), (string) $line->price->stripTrailingZeros(), self::unit($line->kind)];

        return [
            'BillingAccountId' => 'fulcrion',
            'BillingCurrency' => $currency,
            'BillingPeriodStart' => $at($month[0]),
            'BillingPeriodEnd' => $at($month[1]),
            'ChargePeriodStart' => $at($line->from),
            'ChargePeriodEnd' => $at($line->to),
            'ChargeCategory' => ($isDiscount ? ChargeCategory::Adjustment : ChargeCategory::Usage)->value,
            'ChargeFrequency' => $line->kind === PriceKind::MonthlyFee ? 'Recurring' : 'Usage-Based',
            'ChargeDescription' => $line->kind->label().($line->name === '' ? '' : ", {$line->name}"),
            'BilledCost' => $amount,
            'EffectiveCost' => $amount,
            'PricingQuantity' => $quantity,
            'PricingUnit' => $unit,
            'ListUnitPrice' => $price,
            'ResourceId' => $cluster->slug,
            'ResourceName' => $cluster->name,
            'ServiceCategory' => 'Databases',
            'ServiceName' => 'Warehouse cluster',
        ];
    }

    private static function unit(PriceKind $kind): string
    {
        return match ($kind) {
            PriceKind::NodeHour, PriceKind::BurstHour => 'Hours',
            PriceKind::WorkerHour => 'Worker-Hours',
            PriceKind::ScannedTebibyte => 'TiB',
            PriceKind::MonthlyFee => 'Months',
            PriceKind::StorageMonth, PriceKind::BackupMonth => 'GiB-Months',
            PriceKind::NetworkOut => 'GiB',
            PriceKind::Discount => '',
        };
    }

    /**
     * @return array<string, string> columns of a file without lines
     */
    private static function empty(): array
    {
        $zero = BigDecimal::zero();

        return self::row(new Cluster(), '', new CostLine(PriceKind::NodeHour, '', $zero, $zero, $zero, 0, 1), Calendar::utc());
    }
}
