<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * A made-up workload of many statements, of which few run often (Zipf's law).
 */
final class GeneratedLoad
{
    private readonly Randomizer $random;

    /** @var list<float> */
    private array $weights = [];

    public function __construct(public readonly int $statements, int $seed = 46)
    {
        $this->random = new Randomizer(new Mt19937($seed));
        $sum = 0.0;
        for ($rank = 1; $rank <= $statements; $rank++) {
            $this->weights[] = $sum += 1 / $rank;
        }
    }

    public function pick(): int
    {
        $x = ($this->random->getInt(0, 1_000_000_000) / 1_000_000_000) * $this->weights[$this->statements - 1];
        $low = 0;
        for ($high = $this->statements - 1; $low < $high;) {
            $middle = intdiv($low + $high, 2);
            if ($this->weights[$middle] < $x) {
                $low = $middle + 1;
            } else {
                $high = $middle;
            }
        }

        return $low;
    }

    /** Text of a statement with fresh literals. */
    public function text(int $statement): string
    {
        $n = $this->random->getInt(1, 100_000);
        $table = 't'.$statement % 40;

        return match ($statement % 6) {
            0 => "SELECT c{$statement}, count(*) AS n, sum(kilos) FROM field.{$table} WHERE picked_at >= '2026-11-01 00:00:{$n}' AND "
                ."bay_id = {$n} GROUP BY c{$statement} ORDER BY n DESC LIMIT 50",
            1 => "SELECT a.c{$statement}, b.name FROM trade.{$table} a JOIN ref.bay b ON b.bay_id = a.bay_id LEFT JOIN ref.variety v "
                ."USING (variety_id) WHERE a.left_at BETWEEN '2026-11-01' AND '2026-11-{$n}' AND a.state IN ('open', 'left', '{$n}')",
            2 => "UPDATE trade.{$table} SET c{$statement} = 'value {$n}' WHERE pallet_id = {$n}",
            3 => "INSERT INTO energy.{$table} (site, c{$statement}, kwh) VALUES ('ridge', {$n}, 1.5), ('harbour', {$n}, 2.25)",
            4 => "WITH daily AS (SELECT bay_id, date_trunc('day', read_at) AS day, avg(value) AS c{$statement} FROM "
                ."field.{$table} WHERE read_at >= '2026-10-{$n}' GROUP BY bay_id, date_trunc('day', read_at)) SELECT day, "
                ."max(c{$statement}) FROM daily GROUP BY day",
            default => "SELECT * FROM people.{$table} WHERE c{$statement} LIKE '%{$n}%' AND region = 'low meadow' OR age > {$n}",
        };
    }

    public function durationUs(int $statement): int
    {
        return (int) (800 * (1 + ($statement % 97)) * exp(0.5 * ($this->random->getInt(0, 6_000) / 1_000 - 3)));
    }

    public function number(int $from, int $to): int
    {
        return $this->random->getInt($from, $to);
    }
}
