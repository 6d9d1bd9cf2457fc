<?php

declare(strict_types=1);

namespace App\Estate\Limits;

use App\Estate\Connectors\SourceError;
use Closure;
use Fulcrion\Core\Limits\LimitMeasure;
use Fulcrion\Core\Limits\RunMeter;

/**
 * That a statement was let in.
 */
final readonly class Admission
{
    /**
     * @param  (Closure(int, int): void)|null  $settle is told bytes and microseconds
     * @param  (Closure(LimitMeasure): SourceError)|null  $stopped why it was stopped, for its sender
     */
    public function __construct(public RunMeter $meter, private ?Closure $settle = null, private ?Closure $stopped = null)
    {
    }

    /** What it really used, once. */
    public function settle(int $bytes, int $us): void
    {
        if ($this->settle !== null) {
            ($this->settle)($bytes, $us);
        }
    }

    /** Why it was ended on the way; null where no limit did. */
    public function stopped(): ?SourceError
    {
        $measure = $this->meter->passed();

        return $measure === null || $this->stopped === null ? null : ($this->stopped)($measure);
    }
}
