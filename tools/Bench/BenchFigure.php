<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

final readonly class BenchFigure
{
    private function __construct(public string $name, public float $value, public string $unit, public ?string $aim, public ?bool $met)
    {
    }

    public static function of(string $name, float $value, string $unit): self
    {
        return new self($name, $value, $unit, null, null);
    }

    public static function atMost(string $name, float $value, float $limit, string $unit): self
    {
        return new self($name, $value, $unit, "at most {$limit} {$unit}", $value <= $limit);
    }

    public static function atLeast(string $name, float $value, float $limit, string $unit): self
    {
        return new self($name, $value, $unit, "at least {$limit} {$unit}", $value >= $limit);
    }
}
