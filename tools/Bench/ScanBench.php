<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Fulcrion\Core\Statistics\Spread;
use Fulcrion\Practice\Engine;
use Random\Engine\Mt19937;
use Random\Randomizer;
use RuntimeException;

/**
 * Filtering and grouping a million rows over three columns on the practice cluster, beside a bare loop over arrays.
 */
final class ScanBench implements Measurement
{
    private const ROWS = 1_000_000;

    private const ROUNDS = 7;

    public function name(): string
    {
        return 'scan';
    }

    public function run(Closure $say): iterable
    {
        ini_set('memory_limit', '2G');
        $say('writing a million rows');
        $random = new Randomizer(new Mt19937(4));
        [$days, $groups, $values] = [[], [], []];
        for ($i = 0; $i < self::ROWS; $i++) {
            $days[] = $random->getInt(0, 27);
            $groups[] = $random->getInt(0, 199);
            $values[] = $random->getInt(0, 100_000);
        }
        $warehouse = PracticeTables::warehouse('scan');
        PracticeTables::table($warehouse, 'fact', ['day' => $days, 'grp' => $groups, 'val' => $values], [], PracticeTables::CHUNK_ROWS);
        $bare = static function () use ($days, $groups, $values): array {
            [$counts, $sums] = [[], []];
            for ($i = 0; $i < self::ROWS; $i++) {
                if ($days[$i] >= 5) {
                    $g = $groups[$i];
                    if (isset($counts[$g])) {
                        $counts[$g]++;
                        $sums[$g] += $values[$i];
                    } else {
                        $counts[$g] = 1;
                        $sums[$g] = $values[$i];
                    }
                }
            }

            return [$counts, $sums];
        };
        $times = ['bare' => [], 'warm' => [], 'cold' => []];
        $engine = new Engine($warehouse);
        $query = 'SELECT grp, count(*), sum(val) FROM fact WHERE day >= 5 GROUP BY grp';
        for ($round = 0; $round <= self::ROUNDS; $round++) {
            $say("round {$round}");
            $began = hrtime(true);
            [$counts, $sums] = $bare();
            $times['bare'][] = hrtime(true) - $began;
            $began = hrtime(true);
            $rows = $engine->run($query, PracticeTables::session(), PracticeTables::limits())->rows;
            $times['warm'][] = hrtime(true) - $began;
            if ($round < 4) {
                $fresh = new Engine($warehouse);
                $began = hrtime(true);
                $fresh->run($query, PracticeTables::session(), PracticeTables::limits());
                $times['cold'][] = hrtime(true) - $began;
                unset($fresh);
            }
            foreach ($rows as [$group, $count, $sum]) {
                if ($counts[(int) $group] !== $count || $sums[(int) $group] !== $sum) {
                    throw new RuntimeException('The runner and the loop differ.');
                }
            }
        }
        $warehouse->destroy();
        $median = static function (string $name) use ($times): float {
            $list = array_slice($times[$name], 1);
            sort($list);

            return Spread::median($list) / 1e6;
        };
        yield BenchFigure::of('bare loop over unpacked arrays', $median('bare'), 'ms');
        yield BenchFigure::of('runner, columns in memory', $median('warm'), 'ms');
        yield BenchFigure::of('runner, chunks read and unpacked from disk', $median('cold'), 'ms');
        yield BenchFigure::atMost('runner, columns in memory / bare loop', $median('warm') / $median('bare'), 3, 'times');
        yield BenchFigure::atMost('runner, chunks from disk / bare loop', $median('cold') / $median('bare'), 3, 'times');
    }
}
