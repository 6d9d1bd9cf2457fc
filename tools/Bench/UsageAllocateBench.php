<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use App\Cost\Application\BillPage;
use App\Cost\Application\Bills;
use App\Cost\Application\ClusterCost;
use App\Cost\Application\Prices;
use App\Estate\Models\Cluster;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageSums;
use Brick\Math\BigDecimal;
use Closure;
use Fulcrion\Core\Cost\Price;
use Fulcrion\Core\Cost\PriceKind;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Usage\Days;
use Illuminate\Support\Facades\DB;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * A month of a cluster of five thousand statements and two hundred teams: what it cost, given to each of them, and held against a bill.
 */
final class UsageAllocateBench implements Measurement
{
    private const STATEMENTS = 5_000;

    private const TEAMS = 200;

    private const DAYS = 30;

    private const DAY = 86_400;

    public function __construct(private readonly Prices $prices, private readonly Bills $bills)
    {
    }

    public function name(): string
    {
        return 'usage-allocate';
    }

    public function run(Closure $say): iterable
    {
        Scratch::fresh();
        $first = (int) strtotime('2026-11-01 UTC');
        $cluster = $this->fill($first, $say);
        yield BenchFigure::of('facts of the month', (float) DB::table('usage_facts')->count(), 'rows');
        $days = new Days($first, $first + self::DAYS * self::DAY);
        $say('allocating');
        foreach ([UsageField::Team, UsageField::Statement] as $field) {
            $began = hrtime(true);
            $cost = ClusterCost::of($cluster, $days, $this->prices, $days->to, $field);
            $seconds = (hrtime(true) - $began) / 1e9;
            assert($cost !== null);
            $parts = $cost->allocation->full();
            $left = BigDecimal::sum(...array_values($parts))->minus($cost->allocation->total)->abs()->toFloat();
            yield BenchFigure::of("parts, by {$field->label()}", (float) count($parts), 'parts');
            yield BenchFigure::atMost("allocation by {$field->label()}", $seconds, 2, 's');
            yield BenchFigure::atMost("what its parts lack of the whole, by {$field->label()}", $left, 0, 'EUR');
        }
        $this->bills->read($this->bill($first), 'bill.csv', 'bench');
        $began = hrtime(true);
        $page = BillPage::of($this->bills->all()[0], $this->bills, $this->prices);
        yield BenchFigure::of('holding a bill of the month against it', (hrtime(true) - $began) / 1e9, 's');
        yield BenchFigure::atMost('difference to the bill', abs(round($page->reconciliation->difference()->toFloat(), 2)), 0, 'EUR');
    }

    private function fill(int $first, Closure $say): Cluster
    {
        $say('making a month of facts');
        $random = new Randomizer(new Mt19937(20));
        $cluster = Cluster::query()->create([
            'slug' => 'fernhill', 'name' => 'Fernhill', 'role' => 'production', 'connector' => 'files', 'dialect' => Dialect::Ansi,
        ]);
        $prices = [
            [PriceKind::NodeHour, '1.20', '12', '0'],
            [PriceKind::ScannedTebibyte, '2.10', '1', '0'],
            [PriceKind::ScannedTebibyte, '1.60', '1', '100'],
            [PriceKind::MonthlyFee, '420', '1', '0'],
        ];
        foreach ($prices as [$kind, $amount, $count, $above]) {
            $this->prices->add($cluster, new Price(
                $kind, '', BigDecimal::of($amount), $first, BigDecimal::of($count), BigDecimal::of($above),
            ), 'bench');
        }
        $rows = [];
        for ($i = 1; $i <= self::STATEMENTS; $i++) {
            $rows[] = [
                'id' => $i, 'fingerprint' => md5((string) $i), 'text' => "SELECT {$i}", 'dialect' => 'ansi', 'kind' => 'query',
                'shape' => str_repeat('0', 32),
            ];
        }
        $columns = array_flip(DB::getSchemaBuilder()->getColumnListing('statements'));
        DB::statement('SET SESSION foreign_key_checks = 0');
        foreach (array_chunk($rows, 1_000) as $some) {
            DB::table('statements')->insert(array_map(static fn (array $row): array => array_intersect_key($row, $columns), $some));
        }
        for ($i = 1; $i <= self::TEAMS; $i++) {
            DB::table('usage_teams')->insert(['id' => $i, 'name' => "team {$i}"]);
        }
        for ($day = 0; $day < self::DAYS; $day++) {
            $facts = [];
            for ($i = 1; $i <= self::STATEMENTS; $i++) {
                $facts[] = [
                    'day_at' => $first + $day * self::DAY, 'cluster_id' => $cluster->id, 'team_id' => $random->getInt(1, self::TEAMS),
                    'origin_id' => 1, 'statement_id' => $i, 'executions' => $random->getInt(1, 500),
                    'in_flight_us' => $random->getInt(1, 10_000_000), 'cpu_us' => $random->getInt(1, 10_000_000),
                    'bytes_scanned' => $random->getInt(0, 10_000_000_000),
                ];
            }
            foreach (array_chunk($facts, 2_500) as $some) {
                DB::table('usage_facts')->insert($some);
            }
            UsageSums::day($cluster->id, $first + $day * self::DAY);
        }

        return $cluster;
    }

    /** What the provider would bill, reckoned for the month as a whole and in whole numbers. */
    private function bill(int $first): string
    {
        $day = static fn (int $n): string => gmdate('Y-m-d', $first + $n * self::DAY);
        $lines = ['BillingAccountId,BilledCost,BillingCurrency,ChargeCategory,ChargePeriodStart,ChargePeriodEnd,ResourceId,PricingUnit'];
        $sum = BigDecimal::zero();
        $before = BigDecimal::zero();
        for ($n = 0; $n < self::DAYS; $n++) {
            $span = "{$day($n)},{$day($n + 1)}";
            $lines[] = "a,345.6,EUR,Usage,{$span},fernhill,Hours";
            $lines[] = "a,14,EUR,Purchase,{$span},fernhill,Months";
            $sum = $sum->plus((string) DB::table('usage_facts')->where('day_at', $first + $n * self::DAY)->sum('bytes_scanned'));
            $tib = $sum->toFloat() / 1_099_511_627_776;
            $upTo = BigDecimal::of(sprintf('%.9F', 2.10 * min($tib, 100) + 1.60 * max(0, $tib - 100)));
            $lines[] = "a,{$upTo->minus($before)},EUR,Usage,{$span},fernhill,TiB";
            $before = $upTo;
        }

        return implode("\n", $lines)."\n";
    }
}
