<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use Fulcrion\Core\Cost\CostLine;
use Fulcrion\Core\Cost\Price;
use Fulcrion\Core\Cost\PriceBook;
use Fulcrion\Core\Cost\PriceKind;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * How much there is of what is paid for and is neither a node nor counted with each execution: storage as it was measured, and what
 * somebody wrote down.
 */
final readonly class Quantities
{
    private const GIBIBYTE = 1_073_741_824;

    /**
     * @param  array<string, list<stdClass>>  $written by kind and name, the latest first
     * @param  array<int, int>  $stored bytes by day they were measured on, oldest first
     */
    private function __construct(private array $written, private array $stored)
    {
    }

    /**
     * @return list<stdClass> what was written down, the latest first
     */
    public static function rows(Cluster $cluster): array
    {
        return array_values(
            DB::table('cost_quantities')->where('cluster_id', $cluster->id)->orderByDesc('from_at')->orderByDesc('id')->get()->all(),
        );
    }

    /**
     * @param  int|null  $to end of the days it is of; null where it goes on until there is another amount
     */
    public static function add(
        Cluster $cluster,
        PriceKind $kind,
        string $name,
        BigDecimal $quantity,
        int $from,
        ?int $to,
        string $by,
    ): void {
        DB::table('cost_quantities')->insert([
            'cluster_id' => $cluster->id, 'kind' => $kind->value, 'name' => $name, 'quantity' => (string) $quantity, 'from_at' => $from,
            'to_at' => $to, 'made_by' => $by, 'made_us' => Clock::microseconds(),
        ]);
    }

    public static function remove(Cluster $cluster, int $id): ?stdClass
    {
        $row = DB::table('cost_quantities')->where('cluster_id', $cluster->id)->where('id', $id)->first();
        DB::table('cost_quantities')->where('cluster_id', $cluster->id)->where('id', $id)->delete();

        return $row;
    }

    /**
     * What that costs day by day, not rounded, each day at the prices its first moment has.
     *
     * @param  int  $from Unix seconds
     * @param  Calendar  $by of whose dates the days are
     * @return list<CostLine>
     */
    public static function lines(Cluster $cluster, PriceBook $book, int $from, int $to, Calendar $by): array
    {
        $priced = [];
        foreach ($book->prices as $price) {
            if ($price->kind->isLevel() || $price->kind->isFlow()) {
                $priced["{$price->kind->value}|{$price->name}"] = $price;
            }
        }
        if ($priced === []) {
            return [];
        }
        $days = new Days($by->day($from), $by->day($to - 1) + Days::DAY);
        $known = self::of($cluster, $days);
        $lines = [];
        foreach ($days->starts() as $day) {
            [$begin, $end] = [max($from, $by->begin($day)), min($to, $by->end($day))];
            foreach ($priced as $price) {
                array_push($lines, ...$price->kind->isLevel()
                    ? $book->kept($price->kind, $price->name, $known->level($price, $day), $begin, $end, $by->month(...))
                    : $known->flowed($book, $price, $day, $begin, $end));
            }
        }

        return $lines;
    }

    private static function of(Cluster $cluster, Days $days): self
    {
        $written = [];
        foreach (self::rows($cluster) as $row) {
            $written["{$row->kind}|{$row->name}"][] = $row;
        }

        return new self($written, StoredBytes::daily($cluster, $days));
    }

    /** GiB on a day: as measured then or last before, or as written down; none before anything is known. */
    private function level(Price $price, int $day): BigDecimal
    {
        if ($price->kind === PriceKind::StorageMonth && $price->name === '') {
            $measured = null;
            foreach ($this->stored as $at => $bytes) {
                $measured = $at <= $day ? $bytes : $measured;
            }
            if ($measured !== null) {
                return BigDecimal::of($measured)->dividedBy(self::GIBIBYTE, PriceBook::SCALE, RoundingMode::HALF_EVEN);
            }
        }
        foreach ($this->written["{$price->kind->value}|{$price->name}"] ?? [] as $row) {
            if ((int) $row->from_at <= $day) {
                return BigDecimal::of($row->quantity);
            }
        }

        return BigDecimal::zero();
    }

    /**
     * @return list<CostLine>
     */
    private function flowed(PriceBook $book, Price $price, int $day, int $from, int $to): array
    {
        $used = $this->flow($price, $day);
        if ($used->isZero()) {
            return [];
        }
        $before = BigDecimal::zero();
        for ($at = Days::month(gmdate('Y-m', $day))->from; $at < $day; $at += Days::DAY) {
            $before = $before->plus($this->flow($price, $at));
        }

        return $book->used($price->kind, $price->name, $used, $before, $from, $from, $to);
    }

    /** A day's even part of what was written down of several. */
    private function flow(Price $price, int $day): BigDecimal
    {
        $sum = BigDecimal::zero();
        foreach ($this->written["{$price->kind->value}|{$price->name}"] ?? [] as $row) {
            if ((int) $row->from_at <= $day && $day < (int) $row->to_at) {
                $days = intdiv((int) $row->to_at - (int) $row->from_at, Days::DAY);
                $sum = $sum->plus(BigDecimal::of($row->quantity)->dividedBy($days, PriceBook::SCALE, RoundingMode::HALF_EVEN));
            }
        }

        return $sum;
    }
}
