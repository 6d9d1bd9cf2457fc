<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Change;

/**
 * What changes alike for some people.
 */
final readonly class Shift
{
    public const COLUMNS = 'columns';

    public const PRIVILEGES = 'privileges';

    public const ROWS = 'rows';

    /**
     * @param  list<string>  $people
     * @param  list<string>  $objects paths
     */
    public function __construct(
        public string $kind,
        public array $people,
        public array $objects,
        public string $before,
        public string $after,
        public bool $gains,
    ) {
    }

    /** Tables, each with how many of its columns. */
    public function places(): string
    {
        if ($this->kind !== self::COLUMNS) {
            return implode(', ', array_slice($this->objects, 0, 4)).
                (count($this->objects) > 4 ? ' and '.(count($this->objects) - 4).' more' : '');
        }
        $tables = [];
        foreach ($this->objects as $path) {
            $tables[substr($path, 0, (int) strrpos($path, '.'))][] = substr($path, (int) strrpos($path, '.') + 1);
        }
        $parts = [];
        foreach (array_slice($tables, 0, 4) as $table => $columns) {
            $parts[] = count($columns) <= 3 ? "{$table}: ".implode(', ', $columns) : "{$table}: ".count($columns).' columns';
        }

        return implode('; ', $parts).(count($tables) > 4 ? ' and '.(count($tables) - 4).' more tables' : '');
    }
}
