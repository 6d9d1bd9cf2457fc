<?php

declare(strict_types=1);

namespace Fulcrion\Core\Limits;

/**
 * Counts what one statement has read and taken so far, and says when it passes what a single statement may.
 */
final class RunMeter
{
    private int $bytes = 0;

    private int $us = 0;

    /**
     * @param  int|null  $mostBytes null for any number
     * @param  int|null  $mostUs of time in flight; null for any
     */
    public function __construct(public readonly ?int $mostBytes = null, public readonly ?int $mostUs = null)
    {
    }

    public function read(int $bytes): void
    {
        $this->bytes += $bytes;
    }

    /** Time runs on, never back. */
    public function took(int $us): void
    {
        $this->us = max($this->us, $us);
    }

    public function bytes(): int
    {
        return $this->bytes;
    }

    public function us(): int
    {
        return $this->us;
    }

    /** What it has too much of; null while it may go on. */
    public function passed(): ?LimitMeasure
    {
        return match (true) {
            $this->mostBytes !== null && $this->bytes > $this->mostBytes => LimitMeasure::Bytes,
            $this->mostUs !== null && $this->us > $this->mostUs => LimitMeasure::Time,
            default => null,
        };
    }
}
