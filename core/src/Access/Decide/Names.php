<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

/**
 * What names can mean at one place of a statement, and the place around it.
 */
final readonly class Names
{
    /**
     * @param  list<array{string, array<string, SeenColumn>|null}>  $relations alias in small letters, columns by name; null for columns nobody knows
     */
    public function __construct(public array $relations, public ?self $outer)
    {
    }

    /**
     * @param  list<string>  $parts
     * @return list<SeenColumn>|null all it can mean, more than one behind USING; null when there is nothing of that name
     */
    public function find(array $parts): ?array
    {
        $column = strtolower($parts[count($parts) - 1]);
        $qualifier = count($parts) > 1 ? strtolower($parts[count($parts) - 2]) : null;
        for ($at = $this; $at !== null; $at = $at->outer) {
            $found = [];
            $open = false;
            foreach ($at->relations as [$alias, $columns]) {
                if ($qualifier !== null && $alias !== $qualifier) {
                    continue;
                }
                if ($columns === null) {
                    $open = true;
                } elseif (isset($columns[$column])) {
                    $found[] = $columns[$column];
                }
            }
            if ($found !== [] || $open) {
                return $found;
            }
        }

        return null;
    }
}
