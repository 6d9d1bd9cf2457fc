<?php

declare(strict_types=1);

namespace App\Telemetry\Usage;

use App\Platform\Figures\Scale;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Usage\UsageMeasure;

/**
 * An amount of a measure in words.
 */
final class Amount
{
    public static function of(UsageMeasure $measure, int|float $amount): string
    {
        $sign = $amount < 0 ? Quantity::MINUS : '';
        $size = abs($amount);

        return $sign.match (true) {
            $measure->isTime() => Quantity::duration((float) $size),
            $measure->isBytes() => Quantity::bytes((float) $size),
            default => Quantity::short((float) $size),
        };
    }

    /**
     * Round numbers of the unit that is shown.
     *
     * @return list<float> from 0 to at least $most
     */
    public static function ticks(UsageMeasure $measure, float $most): array
    {
        if ($measure->isTime()) {
            return Scale::durations($most, 4);
        }
        $unit = $measure->isBytes() && $most >= 1 ? 1024 ** floor(log($most, 1024)) : 1;

        return array_map(static fn (float $tick): float => $tick * $unit, Scale::ticks($most / $unit, 4));
    }

    public static function change(UsageMeasure $measure, int $amount): string
    {
        return ($amount > 0 ? '+' : '').self::of($measure, $amount);
    }

    /**
     * "21% more", "2.1 times as much", "33% less".
     *
     * @param  string  $than what it is held against, after "than in" or "as in"; empty where that is clear
     */
    public static function against(int $before, int $after, string $than = ''): string
    {
        $in = static fn (string $word): string => $than === '' ? '' : " {$word} {$than}";

        return match (true) {
            $before === $after => 'as much'.($than === '' ? ' as before' : $in('as in')),
            $before === 0 => 'nothing'.($than === '' ? ' before' : $in('in')),
            $after === 0 => 'nothing any more'.$in('unlike in'),
            $after >= 2 * $before => Quantity::digits($after / $before).' times as much'.$in('as in'),
            $after > $before => Quantity::percent($after / $before - 1).' more'.$in('than in'),
            default => Quantity::percent(1 - $after / $before).' less'.$in('than in'),
        };
    }
}
