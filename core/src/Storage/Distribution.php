<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

use InvalidArgumentException;

/**
 * Which node a row of a table lives on.
 */
final readonly class Distribution
{
    public const HASH = 'hash';

    public const EVEN = 'even';

    public const COPY = 'copy';

    /**
     * @param  list<string>  $columns of HASH only
     */
    private function __construct(public string $kind, public array $columns)
    {
    }

    public static function hash(string ...$columns): self
    {
        if ($columns === []) {
            throw new InvalidArgumentException('a table is placed by at least one column');
        }

        return new self(self::HASH, array_values($columns));
    }

    public static function even(): self
    {
        return new self(self::EVEN, []);
    }

    public static function copy(): self
    {
        return new self(self::COPY, []);
    }

    /** Behind "placed". */
    public function describe(): string
    {
        return match ($this->kind) {
            self::HASH => 'by '.implode(', ', $this->columns),
            self::COPY => 'everywhere',
            default => 'evenly',
        };
    }

    /**
     * @param  list<int|float|string|bool|null>  $key
     */
    public static function node(array $key, int $nodes): int
    {
        $text = '';
        foreach ($key as $value) {
            // Zero has no sign: 0.0 and -0.0 are one value.
            $text .= $value === null ? "\0" : (is_bool($value) ? (int) $value : (is_float($value) ? $value + 0.0 : $value))."\1";
        }

        return crc32($text) % $nodes;
    }
}
