<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Indexes;

/**
 * An index of a table.
 */
final readonly class Index
{
    public const PRIMARY = 'PRIMARY';

    /**
     * @param  non-empty-list<string>  $columns in order, small letters
     */
    public function __construct(
        public string $name,
        public array $columns,
        public bool $unique,
        /** Times the server read by it since it started counting; null where it does not count. */
        public ?int $uses = null,
        /** Whether it holds whole values in order, unlike one of beginnings, of words or of places. */
        public bool $whole = true,
    ) {
    }

    /**
     * @param  list<string>  $columns
     */
    public function beginsWith(array $columns): bool
    {
        return array_slice($this->columns, 0, count($columns)) === $columns;
    }

    public function isPrimary(): bool
    {
        return $this->name === self::PRIMARY;
    }
}
