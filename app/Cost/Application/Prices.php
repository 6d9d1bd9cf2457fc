<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\IdleRule;
use Fulcrion\Core\Cost\Price;
use Fulcrion\Core\Cost\PriceBook;
use Fulcrion\Core\Cost\PriceKind;
use Fulcrion\Core\Usage\UsageMeasure;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Where prices and rules of clusters are kept.
 */
final class Prices
{
    public function book(Cluster $cluster): PriceBook
    {
        return new PriceBook($this->rule($cluster)->currency, array_map(self::price(...), $this->rows($cluster)));
    }

    public static function price(stdClass $row): Price
    {
        return new Price(
            PriceKind::from($row->kind),
            $row->name,
            BigDecimal::of($row->amount),
            (int) $row->from_at,
            BigDecimal::of($row->quantity),
            BigDecimal::of($row->above),
            (bool) $row->is_reserved,
        );
    }

    /**
     * @return list<stdClass> the earliest moment first
     */
    public function rows(Cluster $cluster): array
    {
        return array_values(
            DB::table('cost_prices')->where('cluster_id', $cluster->id)->orderBy('from_at')->orderBy('id')->get()->all(),
        );
    }

    /** Another one whenever a price, the rule, a quantity or a reservation is another. */
    public function version(Cluster $cluster): string
    {
        return hash('xxh64', json_encode([
            $this->rows($cluster),
            DB::table('cost_rules')->where('cluster_id', $cluster->id)->first(),
            Quantities::rows($cluster),
            Reservations::rows($cluster),
        ], JSON_THROW_ON_ERROR));
    }

    public function rule(Cluster $cluster): CostRule
    {
        $row = DB::table('cost_rules')->where('cluster_id', $cluster->id)->first();

        return new CostRule(
            $row->currency ?? (string) config('fulcrion.currency'),
            UsageMeasure::tryFrom($row->follows ?? '') ?? UsageMeasure::InFlight,
            IdleRule::tryFrom($row->idle ?? '') ?? IdleRule::OwnLine,
        );
    }

    public function setRule(Cluster $cluster, CostRule $rule): void
    {
        DB::table('cost_rules')->upsert([
            'cluster_id' => $cluster->id, 'currency' => $rule->currency, 'follows' => $rule->follows->value, 'idle' => $rule->idle->value,
        ], ['cluster_id'], ['currency', 'follows', 'idle']);
    }

    public function add(Cluster $cluster, Price $price, string $by): void
    {
        DB::table('cost_prices')->insert([
            'cluster_id' => $cluster->id,
            'kind' => $price->kind->value,
            'name' => $price->name,
            'amount' => (string) $price->amount,
            'quantity' => (string) $price->quantity,
            'above' => (string) $price->above,
            'from_at' => $price->from,
            'is_reserved' => $price->isReserved,
            'made_by' => $by,
            'made_us' => Clock::microseconds(),
        ]);
    }

    public function remove(Cluster $cluster, int $id): ?Price
    {
        $row = DB::table('cost_prices')->where('cluster_id', $cluster->id)->where('id', $id)->first();
        DB::table('cost_prices')->where('cluster_id', $cluster->id)->where('id', $id)->delete();

        return $row === null ? null : self::price($row);
    }
}
