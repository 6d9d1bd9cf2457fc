<?php

declare(strict_types=1);

namespace Fulcrion\Core\Cost;

use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;

/**
 * What one unit of a cluster costs at present, so that time and bytes can be told in money.
 */
final readonly class Rates
{
    /** Days of a mean month of the Gregorian calendar. */
    public const MONTH_DAYS = '30.436875';

    private const WEEK_DAYS = 7;

    /** Digits behind the point quotients are worked with. */
    private const SCALE = 12;

    private const HOUR_US = '3600000000';

    private const GIBIBYTE = '1073741824';

    /**
     * Each is null where there is no price of it.
     *
     * @param  BigDecimal|null  $inFlightHour mean full cost of an hour of one statement in flight
     * @param  BigDecimal|null  $workerHour of one worker of a job
     * @param  BigDecimal|null  $nodeHour of one node
     * @param  BigDecimal|null  $storedGibMonth of a GiB stored for a month
     */
    public function __construct(
        public string $currency,
        public ?BigDecimal $inFlightHour,
        public ?BigDecimal $workerHour = null,
        public ?BigDecimal $nodeHour = null,
        public ?BigDecimal $storedGibMonth = null,
    ) {
    }

    /** A month's cost of so many microseconds a week in flight. */
    public function ofInFlight(float $usPerWeek): ?BigDecimal
    {
        return self::ofHours($this->inFlightHour, $usPerWeek);
    }

    /** Cost of a microsecond in flight, for what is summed up; nothing where it has no price in the currency. */
    public function inFlightUs(string $currency): float
    {
        return $this->inFlightHour === null || $this->currency !== $currency ? 0.0
            : $this->inFlightHour->toFloat() / (float) self::HOUR_US;
    }

    /** A month's cost of so many microseconds of workers a week. */
    public function ofWorkers(float $usPerWeek): ?BigDecimal
    {
        return self::ofHours($this->workerHour, $usPerWeek);
    }

    /** A month's cost of bytes that are kept. */
    public function ofStored(float $bytes): ?BigDecimal
    {
        return $this->storedGibMonth === null ? null : BigDecimal::of(sprintf('%.0F', $bytes))
            ->multipliedBy($this->storedGibMonth)
            ->dividedBy(self::GIBIBYTE, 2, RoundingMode::HALF_UP);
    }

    /** What an amount of some days is for a month. */
    public static function monthly(BigDecimal $amount, int $days): BigDecimal
    {
        return $amount->multipliedBy(self::MONTH_DAYS)->dividedBy(max(1, $days), 2, RoundingMode::HALF_UP);
    }

    private static function ofHours(?BigDecimal $hour, float $usPerWeek): ?BigDecimal
    {
        if ($hour === null) {
            return null;
        }

        return self::monthly(
            BigDecimal::of(sprintf('%.0F', $usPerWeek))->multipliedBy($hour)
                ->dividedBy(self::HOUR_US, self::SCALE, RoundingMode::HALF_UP),
            self::WEEK_DAYS,
        );
    }
}
