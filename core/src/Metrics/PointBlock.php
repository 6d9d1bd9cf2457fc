<?php

declare(strict_types=1);

namespace Fulcrion\Core\Metrics;

/**
 * Points of one series in few bytes. Moments are kept as differences of their differences, which are mostly nothing; values as differences
 * of whole numbers where all of them have few decimals, else as what each has other bits in than the one before (Pelkonen et al.,
 * VLDB 2015), by bytes; what comes again and again is told once with how often.
 */
final class PointBlock
{
    /** A point a millisecond for an hour, and some. */
    private const MOST = 4_000_000;

    public static function encode(Points $points): string
    {
        $body = ValueColumn::number($points->count());
        if ($points->timesMs !== []) {
            $body .= self::times($points->timesMs);
            $body .= ValueColumn::encode($points->values);
        }

        return CheckedBytes::seal($body);
    }

    /** @throws DamagedBlock */
    public static function decode(string $block): Points
    {
        $body = CheckedBytes::open($block);
        $at = 0;
        $count = ValueColumn::readNumber($body, $at);
        if ($count < 0 || $count > self::MOST) {
            throw new DamagedBlock('A block of points has more points than there can be.');
        }
        $times = $values = [];
        if ($count > 0) {
            $times = self::readTimes($body, $at, $count);
            $values = ValueColumn::decode($body, $at, $count);
        }
        if ($at !== strlen($body)) {
            throw new DamagedBlock('A block of points has more bytes than points.');
        }

        return new Points($times, $values);
    }

    /**
     * @param  non-empty-list<int>  $times
     */
    public static function times(array $times): string
    {
        $bytes = ValueColumn::signed($times[0]);
        $differences = [];
        $before = 0;
        for ($i = 1, $count = count($times); $i < $count; $i++) {
            $step = $times[$i] - $times[$i - 1];
            $differences[] = $step - $before;
            $before = $step;
        }

        return $bytes.ValueColumn::runs($differences);
    }

    /**
     * @return list<int>
     *
     * @throws DamagedBlock
     */
    public static function readTimes(string $body, int &$at, int $count): array
    {
        $times = [ValueColumn::readSigned($body, $at)];
        $step = 0;
        foreach (ValueColumn::readRuns($body, $at, $count - 1) as $difference) {
            $step += $difference;
            $times[] = $times[count($times) - 1] + $step;
        }

        return $times;
    }
}
