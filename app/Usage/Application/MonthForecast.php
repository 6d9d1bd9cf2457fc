<?php

declare(strict_types=1);

namespace App\Usage\Application;

use Fulcrion\Core\Forecast\DailySeries;
use Fulcrion\Core\Forecast\Forecast;
use Fulcrion\Core\Usage\Days;

/**
 * Where a month ends: what was used of it, and what is expected of its days that are not over.
 */
final readonly class MonthForecast
{
    /**
     * @param  Days  $month whole
     * @param  int  $begun place of the month's first day in the series; below zero where the series begins later
     */
    private function __construct(public Forecast $forecast, public Days $month, private int $begun, public int $ahead)
    {
    }

    /**
     * @param  DailySeries  $series up to yesterday
     * @param  Days  $month whole, in which the day after it lies
     */
    public static function of(DailySeries $series, Days $month): self
    {
        $begun = intdiv($month->from - $series->first, Days::DAY);
        $ahead = $begun + $month->count() - $series->count();

        return new self(Forecast::of($series, $ahead), $month, $begun, $ahead);
    }

    /** The same as it would have been said so many days ago; null where that lies before the month. */
    public function earlier(int $days): ?self
    {
        $series = $this->forecast->series;
        $count = $series->count() - $days;

        return $count <= max(0, $this->begun) ? null
            : self::of(new DailySeries($series->first, array_slice($series->values, 0, $count)), $this->month);
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
     * @return array{float, float}|null null where too little of the past is known
     */
    public function range(float $part, ?int $days = null): ?array
    {
        $range = $this->forecast->range($days ?? $this->ahead, $part);

        return $range === null ? null : [$this->used() + $range[0], $this->used() + $range[1]];
    }
}
