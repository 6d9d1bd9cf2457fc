<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Demo;

use App\Cost\Application\BillFindings;
use App\Cost\Application\Bills;
use App\Platform\Support\Spreadsheet;
use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use DateTimeImmutable;
use Illuminate\Support\Facades\DB;

/**
 * The provider's bill of the demo world, made up without the price book: it knows the price two and a half days too early, has Wren's nodes
 * on over a weekend on which nobody used them, and a credit.
 */
final class DemoBill
{
    private const DAY = 86_400;

    private const DAYS = 27;

    private const TEBIBYTE = 1_099_511_627_776;

    /** @var list<list<string>> */
    private array $lines = [];

    public function __construct(private readonly Bills $bills, private readonly BillFindings $findings)
    {
    }

    public function write(int $now): void
    {
        if ($this->bills->all() !== []) {
            return;
        }
        $today = $now - $now % self::DAY;
        $from = $today - self::DAYS * self::DAY;
        $weekend = $from;
        while (gmdate('N', $weekend) !== '6' || $weekend < $from + 9 * self::DAY) {
            $weekend += self::DAY;
        }
        for ($day = $from; $day < $today; $day += self::DAY) {
            $price = BigDecimal::of($day < $today - 16 * self::DAY ? '1.20' : '1.26');
            $this->charge('fernhill', 'Usage', $day, $price->multipliedBy(288), '288', 'Hours', 'Nodes');
            if (gmdate('N', $day) < '6' || $day === $weekend || $day === $weekend + self::DAY) {
                $this->charge('wren', 'Usage', $day, $price->multipliedBy(96), '96', 'Hours', 'Nodes');
            }
            $this->fee($day);
        }
        $this->scanned($from, $today);
        $this->workers($from, $today);
        $this->stored($from, $today);
        $this->charge('fernhill', 'Credit', $today - 5 * self::DAY, BigDecimal::of('-150'), '', '', 'Goodwill');
        $path = storage_path('app/demo/bill-'.gmdate('Y-m', $today - self::DAY).'.csv');
        is_dir(dirname($path)) || mkdir(dirname($path), 0o700, true);
        Spreadsheet::csv($path, [[
            'BillingAccountId', 'BillingCurrency', 'ChargeCategory', 'ChargePeriodStart', 'ChargePeriodEnd', 'ResourceId', 'BilledCost',
            'PricingQuantity', 'PricingUnit', 'ChargeDescription',
        ], ...$this->lines]);
        $this->bills->read((string) file_get_contents($path), basename($path), 'Marta Ellwood');
        $this->findings->report();
    }

    private function fee(int $day): void
    {
        $days = (int) (new DateTimeImmutable("@{$day}"))->format('t');
        $part = BigDecimal::one()->dividedBy($days, 9, RoundingMode::HALF_UP);
        $amount = BigDecimal::of(420)->dividedBy($days, 9, RoundingMode::HALF_UP);
        $this->charge('fernhill', 'Purchase', $day, $amount, (string) $part, 'Months', 'Support');
    }

    /** What was metered, by the tiers of each month. */
    private function scanned(int $from, int $to): void
    {
        $used = [];
        $first = (new DateTimeImmutable("@{$from}"))->modify('first day of this month midnight')->getTimestamp();
        foreach (
            DB::select(
                'SELECT day_at, SUM(bytes_scanned) AS bytes FROM usage_facts JOIN clusters ON clusters.id = cluster_id '
                    ."AND slug = 'fernhill' WHERE day_at >= ? AND day_at < ? GROUP BY day_at ORDER BY day_at",
                [$first, $to],
            ) as $row
        ) {
            $month = gmdate('Y-m', (int) $row->day_at);
            $tib = BigDecimal::of((string) $row->bytes)->dividedBy(self::TEBIBYTE, 9, RoundingMode::HALF_UP);
            $before = $used[$month] ?? BigDecimal::zero();
            $used[$month] = $before->plus($tib);
            $cost = static fn (BigDecimal $sum): BigDecimal => $sum->isLessThan(100) ? $sum->multipliedBy('2.10')
                : BigDecimal::of(210)->plus($sum->minus(100)->multipliedBy('1.60'));
            if ((int) $row->day_at >= $from) {
                $amount = $cost($used[$month])->minus($cost($before));
                $this->charge('fernhill', 'Usage', (int) $row->day_at, $amount, (string) $tib, 'TiB', 'Bytes scanned');
            }
        }
    }

    /** Workers of nightly jobs, from the start of each run to its end. */
    private function workers(int $from, int $to): void
    {
        $days = [];
        foreach (
            DB::select("SELECT workers, started_us, ended_us FROM job_runs JOIN clusters ON clusters.id = cluster_id AND slug = 'fernhill' "
                .'WHERE ended_us > 0') as $run
        ) {
            for ($day = $from; $day < $to; $day += self::DAY) {
                $us = min((int) $run->ended_us, ($day + self::DAY) * 1_000_000) - max((int) $run->started_us, $day * 1_000_000);
                $days[$day] = ($days[$day] ?? 0) + (int) $run->workers * max(0, $us);
            }
        }
        foreach (array_filter($days, static fn (int $us): bool => $us > 0) as $day => $us) {
            $hours = BigDecimal::of($us)->dividedBy('3600000000', 9, RoundingMode::HALF_UP);
            $amount = $hours->multipliedBy((string) NightlyJobs::PRICE);
            $this->charge('fernhill', 'Usage', $day, $amount, (string) $hours, 'Worker-Hours', 'Workers');
        }
    }

    /** Storage by what was there on each day, and backups, by the part of their month. */
    private function stored(int $from, int $to): void
    {
        foreach (
            DB::select(
                'SELECT slug, day_at, SUM(bytes) AS bytes FROM stored_tables JOIN clusters ON clusters.id = cluster_id WHERE day_at >= ? '
                    .'AND day_at < ? GROUP BY slug, day_at ORDER BY slug, day_at',
                [$from, $to],
            ) as $row
        ) {
            $day = (int) $row->day_at;
            $days = (int) (new DateTimeImmutable("@{$day}"))->format('t');
            $months = BigDecimal::of((string) $row->bytes)->dividedBy(1_073_741_824 * $days, 9, RoundingMode::HALF_UP);
            $amount = $months->multipliedBy('0.024');
            $this->charge((string) $row->slug, 'Usage', $day, $amount, (string) $months, 'GiB-Months', 'Tables');
            if ($row->slug === 'fernhill') {
                $months = BigDecimal::of(640)->dividedBy($days, 9, RoundingMode::HALF_UP);
                $this->charge('fernhill', 'Usage', $day, $months->multipliedBy('0.011'), (string) $months, 'GiB-Months', 'Backups');
            }
        }
    }

    private function charge(
        string $resource,
        string $category,
        int $day,
        BigDecimal $amount,
        string $quantity,
        string $unit,
        string $description,
    ): void {
        $at = static fn (int $second): string => gmdate('Y-m-d\TH:i:s\Z', $second);
        $this->lines[] = [
            $resource === 'wren' ? 'grow-quality' : 'grow-production', 'EUR', $category, $at($day), $at($day + self::DAY), $resource,
            (string) $amount, $quantity, $unit, $description,
        ];
    }
}
