<?php

declare(strict_types=1);

namespace App\Limits\Application;

use App\Estate\Models\Cluster;
use App\Estate\Pricing\MoneyRates;
use App\Telemetry\Usage\UsageAxis;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageFold;
use App\Telemetry\Usage\UsageReader;
use App\Telemetry\Usage\UsageScope;
use Fulcrion\Core\Limits\HourUse;
use Fulcrion\Core\Limits\Limit;
use Fulcrion\Core\Limits\LimitMeasure;
use Fulcrion\Core\Limits\LimitPeriod;
use Fulcrion\Core\Limits\ScopeKind;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageMeasure;
use Illuminate\Support\Facades\DB;

/**
 * What the scope of a limit used, by the facts of usage. Cost is modelled: time in flight at what an hour of it costs on each cluster.
 */
final class LimitFacts
{
    /** @var array<string, float> millionths of a currency for a microsecond in flight, by cluster */
    private array $rates = [];

    public function __construct(
        private readonly UsageReader $reader,
        private readonly MoneyRates $prices,
        private readonly Calendar $calendar,
    ) {
    }

    /** So far in the period that begins on a day. */
    public function used(Limit $limit, int $fromDay, string $currency): int
    {
        $days = $limit->period->days($fromDay);
        $scope = self::scope($limit, $days);
        if ($limit->measure !== LimitMeasure::Cost) {
            return max(0, $this->reader->totals($scope, $days)[$scope->measure->value]);
        }
        $cost = 0.0;
        foreach ($this->reader->by(UsageField::Cluster, $scope, $days) as $cluster => $used) {
            $cost += $used->amount * $this->rate((string) $cluster, $currency);
        }

        return max(0, (int) round($cost));
    }

    /**
     * Hour by hour, each told of whom it is: a person, or a statement where the limit is of single ones.
     *
     * @return list<HourUse>
     */
    public function hours(Limit $limit, Days $days, string $currency): array
    {
        $scope = self::scope($limit, $days);
        $who = UsageAxis::field($limit->period === LimitPeriod::Statement ? UsageField::Statement : UsageField::Person);
        $axes = array_values(array_filter([
            UsageAxis::of('hour'), $who, $limit->measure === LimitMeasure::Cost ? UsageAxis::field(UsageField::Cluster) : null,
        ]));
        $measure = $scope->measure->value;
        $sums = array_values(array_unique([UsageMeasure::Executions->value, $measure]));
        $hours = [];
        foreach (DB::select((new UsageFold($scope, $days, $axes, $sums))->named()) as $row) {
            $at = (int) $row->by0;
            $rate = $limit->measure === LimitMeasure::Cost ? $this->rate((string) $row->by2, $currency) : 1;
            $hours[] = new HourUse(
                $at,
                $this->calendar->day($at),
                (string) $row->by1 === '' ? $who->field?->none() ?? '' : (string) $row->by1,
                max(0, (int) $row->executions),
                max(0, (int) round((int) $row->{$measure} * $rate)),
            );
        }

        return $hours;
    }

    /** What so much time in flight costs on a cluster, in millionths of a currency; 0 where it has no price in it. */
    public function cost(int $us, string $cluster, string $currency): int
    {
        return (int) round($us * $this->rate($cluster, $currency));
    }

    private function rate(string $slug, string $currency): float
    {
        return $this->rates["{$slug} {$currency}"] ??= (function () use ($slug, $currency): float {
            $cluster = Cluster::query()->where('slug', $slug)->first();

            return LimitMeasure::MONEY * ($cluster === null ? 0.0 : $this->prices->of($cluster)?->inFlightUs($currency) ?? 0.0);
        })();
    }

    private static function scope(Limit $limit, Days $days): UsageScope
    {
        $field = match ($limit->kind) {
            ScopeKind::Person => UsageField::Person,
            ScopeKind::Team => UsageField::Team,
            ScopeKind::Application => UsageField::Application,
            ScopeKind::Queue => UsageField::Queue,
            ScopeKind::Cluster => UsageField::Cluster,
        };

        return UsageScope::within($days, $limit->measure->usage(), null, [$field->value => $limit->name]);
    }
}
