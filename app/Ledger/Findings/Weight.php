<?php

declare(strict_types=1);

namespace App\Ledger\Findings;

use Fulcrion\Core\Text\Quantity;

/**
 * What a finding costs, in one unit.
 */
final readonly class Weight
{
    private function __construct(public float $value, public WeightUnit $unit)
    {
    }

    public static function of(float $value, WeightUnit $unit): self
    {
        return $value > 0 && is_finite($value) ? new self($value, $unit) : new self(0.0, WeightUnit::None);
    }

    public static function none(): self
    {
        return new self(0.0, WeightUnit::None);
    }

    /** Time where there is any, else bytes. */
    public static function timeOrBytes(float $queryUs, float $bytes): self
    {
        return $queryUs > 0 ? self::of($queryUs, WeightUnit::QueryTime) : self::of($bytes, WeightUnit::Bytes);
    }

    public function shown(): string
    {
        return match ($this->unit) {
            WeightUnit::QueryTime => Quantity::duration($this->value),
            WeightUnit::WorkerTime => Quantity::duration($this->value).' of workers',
            WeightUnit::Bytes => Quantity::bytes($this->value),
            WeightUnit::None => '',
        };
    }
}
