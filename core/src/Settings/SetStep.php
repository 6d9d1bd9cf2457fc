<?php

declare(strict_types=1);

namespace Fulcrion\Core\Settings;

use InvalidArgumentException;

/**
 * One setting of a change, written as name = value.
 */
final readonly class SetStep
{
    public function __construct(public string $name, public string $value)
    {
    }

    /** @throws InvalidArgumentException */
    public static function read(string $line): self
    {
        [$name, $value] = [...explode(' = ', $line, 2), null];

        return $name === '' || $name === null || $value === null ? throw new InvalidArgumentException('A step is written as name = value.')
            : new self($name, $value);
    }

    public function written(): string
    {
        return "{$this->name} = {$this->value}";
    }
}
