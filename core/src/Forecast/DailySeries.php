<?php

declare(strict_types=1);

namespace Fulcrion\Core\Forecast;

use Fulcrion\Core\Statistics\Spread;
use Fulcrion\Core\Usage\Days;
use InvalidArgumentException;

/**
 * Amounts day by day, oldest first. What is not known of a day is null, which is no zero.
 */
final readonly class DailySeries
{
    /**
     * @param  int  $first date of the first day
     * @param  list<float|null>  $values none below zero
     *
     * @throws InvalidArgumentException where a value is below zero or no number
     */
    public function __construct(public int $first, public array $values)
    {
        foreach ($values as $value) {
            if ($value !== null && (! is_finite($value) || $value < 0)) {
                throw new InvalidArgumentException('Amounts of days are numbers of zero and more.');
            }
        }
    }

    public function count(): int
    {
        return count($this->values);
    }

    /** The date of a place; it may lie behind the last one. */
    public function day(int $place): int
    {
        return $this->first + $place * Days::DAY;
    }

    /** How many of its days are known. */
    public function known(): int
    {
        return count(Spread::known($this->values));
    }
}
