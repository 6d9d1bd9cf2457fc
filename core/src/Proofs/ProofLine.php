<?php

declare(strict_types=1);

namespace Fulcrion\Core\Proofs;

/**
 * One statement before and after a change.
 */
final readonly class ProofLine
{
    /**
     * Least times of the same write on two equal tables, taken by turns, lay closer together than this: between 0.81 and 1.37 in 40
     * trials beside other work.
     */
    public const SCATTER = 0.67;

    /** By so little a run differs from another for reasons of the machine alone. */
    private const SHORT_US = 500;

    public function __construct(
        /** Fingerprint. */
        public string $statement,
        /** Normalised, so that a proof can be handed to anyone. */
        public string $text,
        public float $executionsPerWeek,
        public Measured $before,
        public Measured $after,
    ) {
    }

    /** Null when it cannot be told. */
    public function equal(): ?bool
    {
        return $this->before->digest === null || $this->after->digest === null ? null : $this->before->digest === $this->after->digest;
    }

    /** What the answers have not in common, where they differ and were kept. */
    public function difference(): ?AnswerDifference
    {
        return $this->equal() === false && $this->before->answer !== null && $this->after->answer !== null
            ? $this->before->answer->against($this->after->answer)
            : null;
    }

    public function failed(): bool
    {
        return $this->before->error !== '' || $this->after->error !== '';
    }

    /** Above 1 it became faster. */
    public function factor(): float
    {
        return max(1, $this->before->us()) / max(1, $this->after->us());
    }

    public function bytesFactor(): float
    {
        return max(1, $this->before->bytesRead) / max(1, $this->after->bytesRead);
    }

    public function isWrite(): bool
    {
        return $this->before->isWrite || $this->after->isWrite;
    }

    /** Modelled times follow from counters and repeat exactly; measured ones scatter, most of all those of short runs. */
    public function isWorse(): bool
    {
        if ($this->failed()) {
            return false;
        }
        $isModelled = $this->before->modelledUs !== null && ! $this->isWrite();

        return $isModelled ? $this->factor() < 0.97
            : $this->factor() < self::SCATTER && ($this->isWrite() || $this->after->us() - $this->before->us() > self::SHORT_US);
    }
}
