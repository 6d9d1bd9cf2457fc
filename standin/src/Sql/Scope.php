<?php

declare(strict_types=1);

namespace Fulcrion\StandIn\Sql;

use Fulcrion\StandIn\Logical\Field;
use Fulcrion\StandIn\WarehouseError;

/**
 * The columns a name can mean at one place, and the scope around it.
 */
final readonly class Scope
{
    /**
     * @param  list<array{string, list<Field>}>  $tables alias, its columns
     * @param  array<string, Field>  $merged columns two tables share through USING, by name in small letters
     */
    public function __construct(public array $tables = [], public ?self $outer = null, public array $merged = [])
    {
    }

    /**
     * @param  list<string>  $parts
     */
    public function find(array $parts, int $at): Field
    {
        $found = $this->here($parts, $at);
        if ($found !== null) {
            return $found;
        }
        if ($this->outer !== null) {
            return $this->outer->find($parts, $at);
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
        $column = strtolower($parts[count($parts) - 1]);
        $qualifier = count($parts) > 1 ? strtolower($parts[count($parts) - 2]) : null;
        if ($qualifier === null && isset($this->merged[$column])) {
            return $this->merged[$column];
        }
        $found = null;
        foreach ($this->tables as [$alias, $fields]) {
            if ($qualifier !== null && strtolower($alias) !== $qualifier) {
                continue;
            }
            foreach ($fields as $field) {
                if (strtolower($field->name) === $column) {
                    if ($found !== null) {
                        throw new WarehouseError('The column '.implode('.', $parts).' could come from more than one table; write the table in front.', $at);
                    }
                    $found = $field;
                }
            }
        }

        return $found;
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
