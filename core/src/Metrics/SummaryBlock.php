<?php

declare(strict_types=1);

namespace Fulcrion\Core\Metrics;

/**
 * What the spans of a series were like, in few bytes: the minutes of an hour, or the hours of a day. A column each for the last, the lowest
 * and the highest value, the sum and the count.
 */
final class SummaryBlock
{
    /** Spans in one block. */
    private const MOST = 100_000;

    /** What adding up floats leaves of noise, as a part of a value. */
    private const NOISE = 1e-13;

    private const DECIMALS = 6;

    /**
     * @param  array<int, Summary>  $summaries by start, ascending
     */
    public static function encode(array $summaries): string
    {
        $body = ValueColumn::number(count($summaries));
        if ($summaries !== []) {
            $lasts = $lows = $highs = $sums = $counts = [];
            foreach ($summaries as $one) {
                $lasts[] = $one->last;
                $lows[] = $one->low;
                $highs[] = $one->high;
                $sums[] = self::withoutNoise($one->sum, $one->count);
                $counts[] = $one->count;
            }
            $body .= PointBlock::times(array_keys($summaries)).ValueColumn::runs(self::steps($counts));
            foreach ([$lasts, $lows, $highs, $sums] as $column) {
                $body .= ValueColumn::encode($column);
            }
        }

        return CheckedBytes::seal($body);
    }

    /**
     * @return array<int, Summary> by start, ascending
     *
     * @throws DamagedBlock
     */
    public static function decode(string $block): array
    {
        $body = CheckedBytes::open($block);
        $at = 0;
        $count = ValueColumn::readNumber($body, $at);
        if ($count < 0 || $count > self::MOST) {
            throw new DamagedBlock('A block of summaries has more of them than there can be.');
        }
        if ($count === 0) {
            return [];
        }
        $starts = PointBlock::readTimes($body, $at, $count);
        $counts = ValueColumn::readRuns($body, $at, $count);
        $columns = [];
        for ($i = 0; $i < 4; $i++) {
            $columns[] = ValueColumn::decode($body, $at, $count);
        }
        if ($at !== strlen($body)) {
            throw new DamagedBlock('A block of summaries has more bytes than summaries.');
        }
        [$lasts, $lows, $highs, $sums] = $columns;
        $summaries = [];
        $points = 0;
        foreach ($starts as $place => $start) {
            $points += $counts[$place];
            $summaries[$start] = new Summary($lows[$place], $highs[$place], $sums[$place], $lasts[$place], $points);
        }

        return $summaries;
    }

    /**
     * @param  list<int>  $numbers
     * @return list<int>
     */
    private static function steps(array $numbers): array
    {
        $steps = [];
        $before = 0;
        foreach ($numbers as $number) {
            $steps[] = $number - $before;
            $before = $number;
        }

        return $steps;
    }

    /** Values of few decimals have a sum of few decimals. */
    private static function withoutNoise(float $sum, int $count): float
    {
        $near = round($sum, self::DECIMALS);

        return abs($near - $sum) <= self::NOISE * $count * max(1.0, abs($sum)) ? $near : $sum;
    }
}
