<?php

declare(strict_types=1);

namespace Fulcrion\Core\Alerts;

use InvalidArgumentException;

/**
 * When something rings, and when it is over. Between the threshold and where it is calm nothing changes, so that what goes up and down
 * around the threshold rings once.
 */
final readonly class AlertCondition
{
    /**
     * @param  float  $calm it is over on this side of it; at the threshold or beyond it, where it is calm
     * @param  int  $forSeconds it has to be reached for so long before it rings
     * @param  int  $calmSeconds it has to be calm for so long before it is over
     * @param  float|null  $share of the hosts that have to reach it together, above 0 to 1; null where each rings on its own
     *
     * @throws InvalidArgumentException saying which of them cannot be
     */
    public function __construct(
        public ThresholdSide $side,
        public float $threshold,
        public float $calm,
        public int $forSeconds,
        public int $calmSeconds,
        public ?float $share = null,
    ) {
        if ($calm !== $threshold && $side->isReached($calm, $threshold)) {
            throw new InvalidArgumentException('Where it is calm it cannot ring: choose a calm value '
                .($side === ThresholdSide::Above ? 'below' : 'above').' the threshold.');
        }
        if ($forSeconds < 0 || $calmSeconds < 0) {
            throw new InvalidArgumentException('A time cannot be less than nothing.');
        }
        if ($share !== null && ($share <= 0.0 || $share > 1.0)) {
            throw new InvalidArgumentException('A share of hosts is more than 0 and 100% at most.');
        }
    }

    public function isReached(float $value): bool
    {
        return $this->side->isReached($value, $this->threshold);
    }

    /** Whether a value is on the calm side: not at the threshold, and not between it and where it is calm. */
    public function isCalm(float $value): bool
    {
        return ! $this->isReached($value)
            && ($value === $this->calm || ! $this->side->isReached($value, $this->calm));
    }

    /** The same with another threshold; the calm value keeps its distance in proportion. */
    public function at(float $threshold): self
    {
        $calm = $this->threshold === 0.0 ? $threshold - ($this->threshold - $this->calm) : $threshold * ($this->calm / $this->threshold);
        $isSound = $calm === $threshold || ! $this->side->isReached($calm, $threshold);

        return new self($this->side, $threshold, $isSound ? $calm : $threshold, $this->forSeconds, $this->calmSeconds, $this->share);
    }

    /** What a group of hosts has to do, where it is a share of them that rings. */
    public function ofShare(): self
    {
        $share = $this->share ?? 1.0;

        return new self(ThresholdSide::Above, $share, $share, $this->forSeconds, $this->calmSeconds);
    }
}
