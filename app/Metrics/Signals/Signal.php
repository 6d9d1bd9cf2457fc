<?php

declare(strict_types=1);

namespace App\Metrics\Signals;

use Fulcrion\Core\Alerts\ThresholdSide;
use Fulcrion\Core\Text\Quantity;

/**
 * Something of a cluster that can be watched over time.
 */
final readonly class Signal
{
    /**
     * @param  string  $key of its source, a colon, and its own
     * @param  string  $unit after a number as people write it; empty for none
     * @param  float  $scale a value is so many of that unit
     * @param  float  $usual threshold that is proposed, in that unit
     * @param  bool  $isPerHost whether each host has its own
     * @param  bool  $isLimited whether it is a share of a limit, so that the day it is reached can be foreseen
     */
    public function __construct(
        public string $key,
        public string $label,
        public string $unit,
        public float $scale,
        public float $usual,
        public bool $isPerHost,
        public ThresholdSide $side = ThresholdSide::Above,
        public bool $isLimited = false,
    ) {
    }

    public function say(float $value): string
    {
        return Quantity::digits($value / $this->scale).($this->unit === '' || $this->unit === '%' ? $this->unit : " {$this->unit}");
    }
}
