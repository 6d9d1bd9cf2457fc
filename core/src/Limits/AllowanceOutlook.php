<?php

declare(strict_types=1);

namespace Fulcrion\Core\Limits;

use Fulcrion\Core\Forecast\DailySeries;
use Fulcrion\Core\Forecast\Forecast;
use Fulcrion\Core\Usage\Days;

/**
 * An allowance as it was, and as it goes on where use goes on as it is forecast: days on which the cluster is in use come again each week.
 */
final readonly class AllowanceOutlook
{
    private const WEEK_DAYS = 7;

    /**
     * @param  list<AllowanceDay>  $days those that are over first, then those ahead
     * @param  int  $first date of the first of them
     * @param  int  $known how many are over
     */
    private function __construct(public Allowance $allowance, public array $days, public int $first, public int $known)
    {
    }

    /**
     * @param  list<bool>  $inUse of each day that is over
     * @param  list<float>  $used of each of them
     * @param  int  $ahead days
     */
    public static function of(Allowance $allowance, int $first, array $inUse, array $used, int $ahead): self
    {
        $past = [];
        foreach ($used as $place => $amount) {
            $past[] = [$inUse[$place] ?? false, $amount];
        }
        $expected = $used === [] ? array_fill(0, $ahead, 0.0) : Forecast::of(new DailySeries($first, $used), $ahead)->days;
        $next = [];
        foreach (array_slice($expected, 0, $ahead) as $place => $amount) {
            // The same day of the last week that is known.
            $like = count($inUse) - self::WEEK_DAYS + $place % self::WEEK_DAYS;
            $next[] = [$inUse[$like] ?? ($inUse !== [] && end($inUse)), max(0.0, $amount)];
        }

        return new self($allowance, $allowance->over([...$past, ...$next]), $first, count($past));
    }

    /** At the end of the last day that is over. */
    public function balance(): float
    {
        return $this->days[$this->known - 1]->balance ?? min($this->allowance->cap, $this->allowance->start);
    }

    /** The day after the last that is looked at. */
    public function end(): int
    {
        return $this->first + count($this->days) * Days::DAY;
    }

    /** The first day ahead on which more is expected to be used than there is; null where none is. */
    public function runsOut(): ?int
    {
        foreach (array_slice($this->days, $this->known, null, true) as $place => $day) {
            if ($day->beyond > 0.0) {
                return $this->first + $place * Days::DAY;
            }
        }

        return null;
    }

    /**
     * What is used beyond it in some days: what was, and what is expected to be.
     *
     * @return array{float, float}
     */
    public function beyond(Days $days): array
    {
        $was = $will = 0.0;
        foreach ($this->days as $place => $day) {
            $at = $this->first + $place * Days::DAY;
            if ($at >= $days->from && $at < $days->to) {
                $was += $place < $this->known ? $day->beyond : 0.0;
                $will += $place < $this->known ? 0.0 : $day->beyond;
            }
        }

        return [$was, $will];
    }
}
