<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Platform\Support\MomentStyle;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\Bill\BillError;
use Fulcrion\Core\Cost\Bill\BillLine;
use Fulcrion\Core\Cost\Bill\ChargeCategory;
use Fulcrion\Core\Cost\Bill\FocusReader;
use Fulcrion\Core\Cost\PriceKind;
use Fulcrion\Core\Parquet\ParquetError;
use Fulcrion\Core\Parquet\ParquetReader;
use Fulcrion\Core\Parquet\StringSource;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Where bills of providers are kept.
 */
final readonly class Bills
{
    public function __construct(private Prices $prices)
    {
    }

    /**
     * @param  string  $bytes of the file
     * @param  bool  $isInPlace whether bills of the same account and days are removed
     * @return int id of the bill
     *
     * @throws BillError also where it was read before; then nothing is changed
     */
    public function read(
        string $bytes,
        string $name,
        string $by,
        ?BigDecimal $rate = null,
        ?string $rateOn = null,
        bool $isInPlace = false,
    ): int {
        $digest = hash('sha256', $bytes);
        $lines = self::lines($bytes);
        $before = DB::table('cost_bills')->where('digest', $digest)->first();
        if ($before !== null) {
            throw new BillError("This file was read before, as {$before->file_name}. Nothing was read twice.");
        }
        $currency = $lines[0]->currency;
        $this->checkCurrency($lines, $currency, $rate);
        $overlapping = $this->overlapping($lines);
        if ($overlapping !== [] && ! $isInPlace) {
            $other = $overlapping[0];
            throw new BillError("{$other->file_name} of the same account covers some of these days, ".self::span($other).'. Remove it '
                .'first, or choose to put this one in its place.');
        }

        return DB::transaction(function () use ($lines, $overlapping, $name, $digest, $currency, $rate, $rateOn, $by): int {
            DB::table('cost_bills')->whereIn('id', array_column($overlapping, 'id'))->delete();
            $id = DB::table('cost_bills')->insertGetId([
                'file_name' => mb_strcut($name, 0, 200),
                'digest' => $digest,
                'currency' => $currency,
                'rate' => $rate === null ? null : (string) $rate,
                'rate_on' => $rate === null ? null : $rateOn,
                'from_at' => min(array_map(static fn (BillLine $line): int => $line->from, $lines)),
                'to_at' => max(array_map(static fn (BillLine $line): int => $line->to, $lines)),
                'line_count' => count($lines),
                'read_by' => $by,
                'read_us' => Clock::microseconds(),
            ]);
            foreach (array_chunk($lines, 1_000) as $some) {
                DB::table('cost_bill_lines')->insert(array_map(static fn (BillLine $line): array => [
                    'bill_id' => $id,
                    'account' => $line->account,
                    'resource' => $line->resource,
                    'category' => $line->category->value,
                    'kind' => $line->kind?->value,
                    'from_at' => $line->from,
                    'to_at' => $line->to,
                    'amount' => (string) $line->amount,
                    'quantity' => $line->quantity === null ? null : (string) $line->quantity,
                    'description' => $line->description,
                ], $some));
            }

            return $id;
        });
    }

    /**
     * @return list<stdClass> the latest first
     */
    public function all(): array
    {
        return array_values(DB::table('cost_bills')->orderByDesc('to_at')->orderByDesc('id')->get()->all());
    }

    public function find(int $id): ?stdClass
    {
        return DB::table('cost_bills')->where('id', $id)->first();
    }

    public function remove(int $id): void
    {
        DB::table('cost_bills')->where('id', $id)->delete();
    }

    /**
     * @return list<BillLine> in the currency of the price books
     */
    public function linesOf(stdClass $bill): array
    {
        $rate = $bill->rate === null ? null : BigDecimal::of($bill->rate)->stripTrailingZeros();
        $lines = [];
        foreach (DB::table('cost_bill_lines')->where('bill_id', $bill->id)->orderBy('id')->cursor() as $row) {
            $amount = BigDecimal::of($row->amount)->stripTrailingZeros();
            $lines[] = new BillLine(
                $row->account,
                $row->resource,
                ChargeCategory::from($row->category),
                $row->kind === null ? null : PriceKind::from($row->kind),
                (int) $row->from_at,
                (int) $row->to_at,
                $rate === null ? $amount : $amount->multipliedBy($rate),
                $bill->currency,
                $row->quantity === null ? null : BigDecimal::of($row->quantity)->stripTrailingZeros(),
                $row->description,
            );
        }

        return $lines;
    }

    /**
     * Which cluster a resource of a bill is: as somebody said, or the one of its name.
     *
     * @return array<string, string> resource => address name of a cluster
     */
    public function resources(): array
    {
        $resources = [];
        foreach (Cluster::query()->get(['id', 'slug', 'name']) as $cluster) {
            $resources[$cluster->name] = $resources[$cluster->slug] = $cluster->slug;
        }
        $said = DB::table('cost_resources')->join('clusters', 'clusters.id', '=', 'cost_resources.cluster_id')
            ->pluck('clusters.slug', 'cost_resources.resource')->all();

        return array_map(strval(...), [...$resources, ...$said]);
    }

    public function say(string $resource, Cluster $cluster): void
    {
        DB::table('cost_resources')->upsert(['resource' => $resource, 'cluster_id' => $cluster->id], ['resource'], ['cluster_id']);
    }

    public static function span(stdClass $bill): string
    {
        $day = static fn (int $at): string => onUtc($at, MomentStyle::Day);

        return "{$day((int) $bill->from_at)} to {$day((int) $bill->to_at - 1)}";
    }

    /**
     * @return non-empty-list<BillLine>
     *
     * @throws BillError
     */
    private static function lines(string $bytes): array
    {
        if (! str_starts_with($bytes, 'PAR1')) {
            return FocusReader::csv($bytes);
        }
        try {
            return FocusReader::parquet(ParquetReader::open(new StringSource($bytes)));
        } catch (ParquetError $error) {
            throw new BillError("The Parquet file cannot be read: {$error->getMessage()}.", 0, $error);
        }
    }

    /**
     * @param  non-empty-list<BillLine>  $lines
     *
     * @throws BillError
     */
    private function checkCurrency(array $lines, string $currency, ?BigDecimal $rate): void
    {
        $resources = $this->resources();
        $named = array_unique(array_map(static fn (BillLine $line): string => $resources[$line->resource] ?? '', $lines));
        foreach (Cluster::query()->whereIn('slug', $named)->orderBy('name')->get() as $cluster) {
            $own = $this->prices->rule($cluster)->currency;
            if ($own !== $currency && $rate === null) {
                throw new BillError("The bill is in {$currency}, the price book of {$cluster->name} in {$own}. Type how many {$own} one "
                    ."{$currency} is, and on which day.");
            }
        }
    }

    /**
     * @param  non-empty-list<BillLine>  $lines
     * @return list<stdClass>
     */
    private function overlapping(array $lines): array
    {
        $spans = [];
        foreach ($lines as $line) {
            $spans[$line->account] = [
                min($line->from, $spans[$line->account][0] ?? $line->from),
                max($line->to, $spans[$line->account][1] ?? $line->to),
            ];
        }
        $bills = [];
        foreach ($spans as $account => [$from, $to]) {
            $ids = DB::table('cost_bill_lines')->where('account', (string) $account)->where('from_at', '<', $to)->where('to_at', '>', $from)
                ->distinct()->pluck('bill_id');
            foreach (DB::table('cost_bills')->whereIn('id', $ids)->get() as $bill) {
                $bills[$bill->id] = $bill;
            }
        }

        return array_values($bills);
    }
}
