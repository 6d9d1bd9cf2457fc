<?php

declare(strict_types=1);

namespace Fulcrion\Core\Forecast;

use Fulcrion\Core\Usage\Days;

/**
 * Where a month or quarter ends: what its days had that are over, and what is expected of those that are not.
 */
final readonly class PeriodForecast
{
    /**
     * @param  Days  $period whole
     * @param  int  $begun place of its first day in the series; below zero where the series begins later
     * @param  int  $ahead days of it that are not over
     */
    private function __construct(public Forecast $forecast, public Days $period, private int $begun, public int $ahead)
    {
    }

    /**
     * @param  DailySeries  $series up to a day before the last of the period
     * @param  Days  $period whole
     */
    public static function of(DailySeries $series, Days $period): self
    {
        $begun = intdiv($period->from - $series->first, Days::DAY);
        $ahead = $begun + $period->count() - $series->count();

        return new self(Forecast::of($series, $ahead), $period, $begun, $ahead);
    }

    /** The same as it would have been said so many days ago; null where that lies before the period. */
    public function earlier(int $days): ?self
    {
        $series = $this->forecast->series;
        $count = $series->count() - $days;

        return $count <= max(0, $this->begun) ? null
            : self::of(new DailySeries($series->first, array_slice($series->values, 0, $count)), $this->period);
    }

    /** Of its days that are over, as far as they are known. */
    public function used(): float
    {
        return array_sum($this->days());
    }

    /**
     * @return list<float> amounts of its days that are over; of what is not known zero
     */
    public function days(): array
    {
        $days = [];
        for ($at = $this->begun; $at < $this->forecast->series->count(); $at++) {
            $days[] = $at < 0 ? 0.0 : $this->forecast->series->values[$at] ?? 0.0;
        }

        return $days;
    }

    public function expected(): float
    {
        return $this->used() + $this->forecast->total($this->ahead);
    }

    /**
     * Between what a part of such forecasts end.
     *
     * @param  int|null  $days ahead; null for all that are left
     * @return array{float, float}|null null where too little of the past is known
     */
    public function range(float $part, ?int $days = null): ?array
    {
        $range = $this->forecast->range($days ?? $this->ahead, $part);

        return $range === null ? null : [$this->used() + $range[0], $this->used() + $range[1]];
    }

    /** The date on which more than an amount was used, or is expected to be; null where that is not in the period. */
    public function passes(float $amount): ?int
    {
        $sum = 0.0;
        foreach ([...$this->days(), ...array_slice($this->forecast->days, 0, $this->ahead)] as $place => $day) {
            $sum += $day;
            if ($sum > $amount) {
                return $this->period->from + $place * Days::DAY;
            }
        }

        return null;
    }
}
