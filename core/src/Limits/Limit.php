<?php

declare(strict_types=1);

namespace Fulcrion\Core\Limits;

/**
 * So much of a measure for whom in each period, and what is done on the way there.
 */
final readonly class Limit
{
    /** @var list<Threshold> the lowest first */
    public array $thresholds;

    /**
     * @param  int  $amount above zero, in the units of the measure
     * @param  list<Threshold>  $thresholds
     */
    public function __construct(
        public LimitMeasure $measure,
        public ScopeKind $kind,
        public string $name,
        public LimitPeriod $period,
        public int $amount,
        array $thresholds,
    ) {
        usort($thresholds, static fn (Threshold $a, Threshold $b): int => $a->percent <=> $b->percent);
        $this->thresholds = $thresholds;
    }

    public function covers(Sender $sender): bool
    {
        return $this->name !== '' && $this->kind->of($sender) === $this->name;
    }

    /** The least amount at which nothing new begins; null where it never holds. */
    public function holdsAt(): ?int
    {
        foreach ($this->thresholds as $threshold) {
            if ($threshold->act === Act::Hold) {
                return $threshold->of($this->amount);
            }
        }

        return null;
    }

    /**
     * @return list<Threshold> those an amount has reached; a single statement is held only where it has more
     */
    public function reached(int $used): array
    {
        return array_values(array_filter($this->thresholds, function (Threshold $one) use ($used): bool {
            $isMore = $this->period === LimitPeriod::Statement && $one->act === Act::Hold;

            return $used >= $one->of($this->amount) + ($isMore ? 1 : 0);
        }));
    }
}
