<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Answers;

use Fulcrion\Core\Storage\Rollups\Candidate;
use Fulcrion\Core\Storage\Rollups\Dimension;
use Generator;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Lattices of three or four dimensions, small enough that every set of rollups can be tried.
 */
final readonly class SmallLattices
{
    /**
     * @return Generator<int, array{list<float>, list<float>, list<Candidate>, float}> cost of each use, executions of each, candidates,
     *     budget
     */
    public static function all(int $count, int $seed): Generator
    {
        $random = new Randomizer(new Mt19937($seed));
        for ($n = 0; $n < $count; $n++) {
            $dimensions = $random->getInt(3, 4);
            $distinct = array_map(static fn (): int => $random->getInt(2, 60), range(1, $dimensions));
            $tableRows = $random->getInt(2_000, 60_000);
            $needs = $weights = $base = [];
            for ($use = 0, $uses = $random->getInt(4, 10); $use < $uses; $use++) {
                $needs[] = $random->getInt(1, (1 << $dimensions) - 1);
                $weights[] = (float) $random->getInt(1, 100);
                $base[] = (float) $tableRows;
            }
            $candidates = [];
            for ($mask = 1; $mask < 1 << $dimensions; $mask++) {
                $rows = 1.0;
                $set = [];
                for ($d = 0; $d < $dimensions; $d++) {
                    if ((($mask >> $d) & 1) === 1) {
                        $rows *= $distinct[$d];
                        $set[] = new Dimension("d{$d}");
                    }
                }
                $rows = min($rows, (float) $tableRows);
                $costs = [];
                foreach ($needs as $use => $need) {
                    if (($mask & $need) === $need) {
                        $costs[$use] = $rows;
                    }
                }
                if ($costs !== []) {
                    $candidates[] = new Candidate($set, $rows, $rows * 10, $costs, ($rows * $random->getInt(0, 3)) / 2);
                }
            }
            yield [$base, $weights, $candidates, ($tableRows * 10 * $random->getInt(5, 120)) / 100];
        }
    }

    /**
     * Most that any set within the budget saves.
     *
     * @param  list<float>  $base
     * @param  list<float>  $weights
     * @param  list<Candidate>  $candidates
     */
    public static function best(array $base, array $weights, array $candidates, float $budget): float
    {
        $best = 0.0;
        for ($set = 1, $sets = 1 << count($candidates); $set < $sets; $set++) {
            [$bytes, $gain, $current] = [0.0, 0.0, $base];
            foreach ($candidates as $i => $candidate) {
                if ((($set >> $i) & 1) === 1) {
                    $bytes += $candidate->bytes;
                    $gain -= $candidate->keepUs;
                    foreach ($candidate->costs as $use => $cost) {
                        $current[$use] = min($current[$use], $cost);
                    }
                }
            }
            if ($bytes <= $budget) {
                foreach ($current as $use => $cost) {
                    $gain += $weights[$use] * ($base[$use] - $cost);
                }
                $best = max($best, $gain);
            }
        }

        return $best;
    }
}
