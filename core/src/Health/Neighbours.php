<?php

declare(strict_types=1);

namespace Fulcrion\Core\Health;

use Fulcrion\Core\Statistics\Spread;

/**
 * Which host differs from its neighbours in what it takes for the same work. Each interval a host is held against the middle of all others
 * in the same interval, as a ratio; days are told by their middle. A host is named where its last days lie too far from the other hosts'
 * (the modified score of Iglewicz and Hoaglin 1993, a robust z-score), or where they do beside what they were before.
 */
final readonly class Neighbours
{
    /** Intervals looked at together. */
    private const BLOCK = 24;

    /** A block of fewer known intervals tells nothing. */
    private const LEAST_KNOWN = 6;

    /** Hosts without which there is no middle worth the name. */
    private const LEAST_OTHERS = 3;

    /**
     * Differences are natural logarithms. Hosts are never quite alike: without a change, less than a third more is not worth a word; with
     * one, less than a fifth.
     */
    private const LEAST_APART = 0.28;

    private const LEAST_CHANGE = 0.18;

    /** Units of spread. */
    private const SCORE = 5.0;

    /** However alike neighbours are, chance makes hosts differ by so much. */
    private const LEAST_SPREAD = 0.025;

    /** Standard deviations in a median absolute deviation of what is spread normally. */
    private const NORMAL = 1.4826;

    /** Blocks before a change without which nobody knows what was usual. */
    private const LEAST_BEFORE = 3;

    /**
     * @param  array<string, list<float|null>>  $differences by host
     * @param  array<string, array<int, float>>  $blocks middle of each, the last one is 0, by host
     */
    private function __construct(public array $differences, private array $blocks, private int $intervals)
    {
    }

    /**
     * @param  array<string, list<float|null>>  $costs what each host took for a unit of its work, one an interval of even length, oldest
     *     first; null where it did too little to tell, or nothing is known
     */
    public static function of(array $costs): self
    {
        $hosts = array_keys($costs);
        $differences = array_fill_keys($hosts, []);
        $intervals = $costs === [] ? 0 : max(array_map(count(...), $costs));
        for ($at = 0; $at < $intervals; $at++) {
            $known = [];
            foreach ($hosts as $host) {
                $cost = $costs[$host][$at] ?? null;
                if ($cost !== null && $cost > 0.0) {
                    $known[$host] = log($cost);
                }
            }
            asort($known);
            $order = array_keys($known);
            $sorted = array_values($known);
            $places = array_flip($order);
            $others = count($sorted) - 1;
            foreach ($hosts as $host) {
                $differences[$host][] = isset($known[$host]) && $others >= self::LEAST_OTHERS
                    ? $known[$host] - self::middleWithout($sorted, $places[$host]) : null;
            }
        }
        $blocks = [];
        foreach ($differences as $host => $list) {
            for ($block = 0; ($end = $intervals - $block * self::BLOCK) > 0; $block++) {
                $begin = max(0, $end - self::BLOCK);
                $known = Spread::known(array_slice($list, $begin, $end - $begin));
                if (count($known) >= self::LEAST_KNOWN) {
                    $blocks[$host][$block] = Spread::median($known);
                }
            }
        }

        return new self($differences, $blocks, $intervals);
    }

    /**
     * Where in a sorted list the middle of all but one lies.
     *
     * @param  list<float>  $sorted two at least
     */
    private static function middleWithout(array $sorted, int $place): float
    {
        $others = count($sorted) - 1;
        $at = static fn (int $i): float => $sorted[$i < $place ? $i : $i + 1];
        $half = intdiv($others, 2);

        return $others % 2 === 1 ? $at($half) : ($at($half - 1) + $at($half)) / 2;
    }

    /**
     * Hosts that take more than their neighbours at the end, the worst first.
     *
     * @return list<Outlier>
     */
    public function slow(): array
    {
        $slow = [];
        foreach ($this->blocks as $host => $blocks) {
            if (! isset($blocks[0])) {
                continue;
            }
            $split = self::split($blocks);
            // One that is well again is no longer slow.
            $split = $split !== null && self::isBack($blocks, $split) ? null : $split;
            [$change, $changeScore] = $split === null ? [0.0, 0.0] : $this->change($host, $split);
            $recent = $split !== null && $change > 0 ? self::mean($blocks, 0, $split) : $blocks[0];
            [$apart, $apartScore] = $this->apart($host, $recent, $split !== null && $change > 0 ? $split : 1);
            $isChanged = $change >= self::LEAST_CHANGE && $changeScore >= self::SCORE && $apart > 0;
            $isApart = $apart >= self::LEAST_APART && $apartScore >= self::SCORE;
            if ($isChanged || $isApart) {
                $slow[] = new Outlier(
                    $host,
                    exp($isChanged && ! $isApart ? $change : $apart),
                    max($isChanged ? $changeScore : 0.0, $isApart ? $apartScore : 0.0),
                    $change >= self::LEAST_CHANGE && $split !== null ? $this->since($host, $split) : null,
                );
            }
        }
        usort($slow, static fn (Outlier $a, Outlier $b): int => $b->factor <=> $a->factor);

        return $slow;
    }

    /**
     * How far a host lies from the others, and in units of their spread.
     *
     * @return array{float, float}
     */
    private function apart(string $host, float $value, int $split): array
    {
        $others = [];
        foreach ($this->blocks as $other => $blocks) {
            if ($other !== $host && ($mean = self::meanOrNull($blocks, 0, $split)) !== null) {
                $others[] = $mean;
            }
        }

        return self::scored($value, $others);
    }

    /**
     * How much a host changed at a split, beside how the others did.
     *
     * @return array{float, float}
     */
    private function change(string $host, int $split): array
    {
        $others = [];
        $own = 0.0;
        foreach ($this->blocks as $other => $blocks) {
            $after = self::meanOrNull($blocks, 0, $split);
            $before = self::meanOrNull($blocks, $split, PHP_INT_MAX);
            if ($after === null || $before === null) {
                continue;
            }
            if ($other === $host) {
                $own = $after - $before;
            } else {
                $others[] = $after - $before;
            }
        }

        return self::scored($own, $others);
    }

    /**
     * @param  list<float>  $others
     * @return array{float, float}
     */
    private static function scored(float $value, array $others): array
    {
        if (count($others) < self::LEAST_OTHERS) {
            return [0.0, 0.0];
        }
        $middle = Spread::median($others);
        $spread = self::NORMAL * Spread::median(array_map(static fn (float $one): float => abs($one - $middle), $others));

        return [$value - $middle, ($value - $middle) / max(self::LEAST_SPREAD, $spread)];
    }

    /**
     * Number of blocks at the end that differ most from those before (least squares of two levels); null where there are too few.
     *
     * @param  array<int, float>  $blocks
     */
    private static function split(array $blocks): ?int
    {
        $places = array_keys($blocks);
        $count = count($places);
        $sum = array_sum($blocks);
        $after = 0.0;
        [$best, $most] = [null, -1.0];
        for ($i = 1; $i <= $count - self::LEAST_BEFORE; $i++) {
            $after += $blocks[$places[$i - 1]];
            $gain = ($after / $i - ($sum - $after) / ($count - $i)) ** 2 * $i * ($count - $i) / $count;
            if ($gain > $most) {
                [$best, $most] = [$places[$i], $gain];
            }
        }

        return $best;
    }

    /**
     * Whether the last block lies nearer to those before a split than to those after it.
     *
     * @param  array<int, float>  $blocks
     */
    private static function isBack(array $blocks, int $split): bool
    {
        [$after, $before] = [self::mean($blocks, 0, $split), self::mean($blocks, $split, PHP_INT_MAX)];

        return abs($blocks[0] - $before) < abs($blocks[0] - $after);
    }

    /** First interval of the change, looked for around the first of the days that differ. */
    private function since(string $host, int $split): int
    {
        $first = max(0, $this->intervals - ($split + 2) * self::BLOCK);
        $last = min($this->intervals, $this->intervals - ($split - 2) * self::BLOCK);
        $around = array_slice($this->differences[$host], $first, $last - $first);
        $list = Spread::known($around);
        $places = array_keys($list);
        $values = array_values($list);
        $count = count($values);
        $sum = array_sum($values);
        $before = 0.0;
        [$best, $most] = [$places[0] ?? 0, -1.0];
        for ($i = 1; $i < $count; $i++) {
            $before += $values[$i - 1];
            $gain = ($before / $i - ($sum - $before) / ($count - $i)) ** 2 * $i * ($count - $i) / $count;
            if ($gain > $most) {
                [$best, $most] = [$places[$i], $gain];
            }
        }

        return $first + $best;
    }

    /**
     * @param  array<int, float>  $blocks
     */
    private static function mean(array $blocks, int $from, int $to): float
    {
        return self::meanOrNull($blocks, $from, $to) ?? 0.0;
    }

    /**
     * Of blocks of some places, those that are known.
     *
     * @param  array<int, float>  $blocks
     */
    private static function meanOrNull(array $blocks, int $from, int $to): ?float
    {
        $some = array_filter($blocks, static fn (int $place): bool => $place >= $from && $place < $to, ARRAY_FILTER_USE_KEY);

        return $some === [] ? null : array_sum($some) / count($some);
    }
}
