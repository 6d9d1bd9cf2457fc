<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Sql;

use Fulcrion\Core\Sql\Names;
use Fulcrion\Practice\Logical\Field;
use Fulcrion\Practice\WarehouseError;

/**
 * The columns a name can mean at one place, and the scope around it. Names mean here what they mean to whoever decides on
 * the statement.
 */
final readonly class BindingScope
{
    /** @var Names\NameScope<Field> */
    public Names\NameScope $names;

    /**
     * @param  list<array{string, list<Field>}>  $tables alias, its columns
     * @param  array<string, Field>  $merged columns two tables share through USING, by name in small letters
     */
    public function __construct(public array $tables = [], ?self $outer = null, public array $merged = [])
    {
        $relations = array_map(
            static fn (array $table): array => [$table[0], array_map(static fn (Field $field): array => [$field->name, $field], $table[1])],
            $tables,
        );
        $this->names = new Names\NameScope($relations, $outer?->names, array_map(static fn (Field $field): array => [$field], $merged));
    }

    /**
     * @param  list<string>  $parts
     */
    public function find(array $parts, int $at): Field
    {
        $found = $this->one($this->names->find($parts), $parts, $at);
        if ($found !== null) {
            return $found;
        }
        $name = implode('.', $parts);
        $close = $this->closest($parts[count($parts) - 1]);
        throw new WarehouseError("There is no column {$name} here".($close === null ? '.' : "; perhaps {$close} is meant."), $at);
    }

    /**
     * @param  list<string>  $parts
     */
    public function here(array $parts, int $at): ?Field
    {
        return $this->one($this->names->here($parts), $parts, $at);
    }

    /**
     * @param  list<Field>  $found
     * @param  list<string>  $parts
     */
    private function one(array $found, array $parts, int $at): ?Field
    {
        if (count($found) > 1) {
            throw new WarehouseError(
                'The column '.implode('.', $parts).' could come from more than one table; write the table in front.',
                $at,
            );
        }

        return $found[0] ?? null;
    }

    private function closest(string $name): ?string
    {
        $best = null;
        $least = 3;
        foreach ($this->tables as [, $fields]) {
            foreach ($fields as $field) {
                $distance = levenshtein(substr(strtolower($name), 0, 60), substr(strtolower($field->name), 0, 60));
                if ($distance < $least) {
                    [$best, $least] = [$field->name, $distance];
                }
            }
        }

        return $best;
    }
}
