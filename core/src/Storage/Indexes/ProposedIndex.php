<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Indexes;

/**
 * An index that could be made.
 */
final readonly class ProposedIndex
{
    /**
     * @param  non-empty-list<string>  $columns
     * @param  array<string, array{rowsNow: float, rowsThen: float, savedUs: float, sort: bool,
     *     covers: bool}>  $served fingerprint => what an execution reads now and would read, time saved a week, whether a sort goes,
     * whether the table need not be looked at
     */
    public function __construct(public string $table, public array $columns, public array $served)
    {
    }

    public function name(): string
    {
        $name = 'by_'.implode('_', $this->columns);

        return strlen($name) <= 60 ? $name : substr($name, 0, 51).'_'.hash('xxh32', $name);
    }

    public function savedUs(): float
    {
        return array_sum(array_column($this->served, 'savedUs'));
    }

    public function create(): string
    {
        return "CREATE INDEX `{$this->name()}` ON {$this->path()} (".
            implode(', ', array_map(static fn (string $c): string => "`{$c}`", $this->columns)).
            ')';
    }

    public function drop(): string
    {
        return "DROP INDEX `{$this->name()}` ON {$this->path()}";
    }

    private function path(): string
    {
        return implode('.', array_map(static fn (string $part): string => "`{$part}`", explode('.', $this->table, 2)));
    }
}
