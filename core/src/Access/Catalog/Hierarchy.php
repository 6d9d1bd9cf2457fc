<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Catalog;

/**
 * A tree of values as it is on one day. A node with two parents, in a gap of its days, or in a circle belongs to no
 * branch, and neither does what is below it: nothing is opened by data that contradicts itself.
 */
final readonly class Hierarchy
{
    /** @var array<string, TreeRow> node => the row that holds */
    private array $rows;

    /** @var array<string, list<string>> parent => nodes */
    private array $children;

    /** @var list<string> */
    public array $problems;

    /**
     * @param  list<TreeRow>  $rows
     * @param  string  $day as 2026-11-30
     */
    public function __construct(array $rows, string $day)
    {
        $byNode = [];
        foreach ($rows as $row) {
            $byNode[$row->node][] = $row;
        }
        $holding = $problems = [];
        foreach ($byNode as $node => $own) {
            $node = (string) $node;
            $begun = array_values(array_filter($own, static fn (TreeRow $row): bool => $row->from === null || $row->from <= $day));
            $latest = array_reduce($begun, static fn (string $max, TreeRow $row): string => max($max, $row->from ?? ''), '');
            $current = array_values(
                array_filter(
                    $begun,
                    static fn (TreeRow $row): bool => $row->to !== null ? $day <= $row->to : ($row->from ?? '') === $latest,
                ),
            );
            $parents = array_unique(array_map(static fn (TreeRow $row): string => $row->parent ?? '', $current));
            if ($current === []) {
                $when =
                    $begun === []
                        ? 'its first row begins on '.min(array_map(static fn (TreeRow $row): string => $row->from ?? '', $own))
                        : 'its last row ended on '.max(array_map(static fn (TreeRow $row): string => $row->to ?? '', $begun));
                $problems[] = "{$own[0]->name} (node {$node}) stands nowhere on {$day}: {$when}. It belongs to no branch until a row "
                    .'covers the day.';
            } elseif (count($parents) > 1) {
                $problems[] =
                    "{$current[0]->name} (node {$node}) has two parents on {$day}: ".
                    implode(' and ', $parents).
                    '. It belongs to no branch until one is left.';
            } else {
                $holding[$node] = $current[0];
            }
        }
        $circles = [];
        foreach (array_keys($holding) as $node) {
            $seen = [];
            $at = (string) $node;
            while ($at !== '' && isset($holding[$at]) && ! isset($seen[$at])) {
                $seen[$at] = true;
                $at = $holding[$at]->parent ?? '';
            }
            if (isset($seen[$at])) {
                $circles[$node] = true;
                $problems[] = "{$holding[$node]->name} (node {$node}) stands in a circle: its parents lead back to node {$at}. It "
                    .'belongs to no branch.';
            } elseif ($at !== '' && ! isset($byNode[$at])) {
                $problems[] = "{$holding[$node]->name} (node {$node}) hangs below node {$at}, which is not there.";
            }
        }
        $holding = array_diff_key($holding, $circles);
        $children = [];
        foreach ($holding as $node => $row) {
            $children[$row->parent ?? ''][] = (string) $node;
        }
        $this->rows = $holding;
        $this->children = $children;
        $this->problems = $problems;
    }

    /**
     * The rows of a node and of all below it.
     *
     * @param  string  $name of the node, or # and its number
     * @return list<TreeRow> none when there is no such node, or when two have the name
     */
    public function branch(string $name): array
    {
        $roots = [];
        foreach ($this->rows as $node => $row) {
            if ($row->name === $name || $name === "#{$node}") {
                $roots[] = (string) $node;
            }
        }
        if (count($roots) !== 1) {
            return [];
        }
        $found = [];
        $open = $roots;
        while ($open !== []) {
            $node = array_pop($open);
            if (! isset($found[$node])) {
                $found[$node] = $this->rows[$node];
                array_push($open, ...$this->children[$node] ?? []);
            }
        }

        return array_values($found);
    }

    /**
     * @return list<string> names from the top to the node that carries a value; none when no node does, or several do
     */
    public function above(string $column, string $value): array
    {
        $at = null;
        foreach ($this->rows as $node => $row) {
            if (($row->values[$column] ?? null) === $value) {
                if ($at !== null) {
                    return [];
                }
                $at = (string) $node;
            }
        }
        $names = [];
        $seen = [];
        while ($at !== null && isset($this->rows[$at]) && ! isset($seen[$at])) {
            $seen[$at] = true;
            array_unshift($names, $this->rows[$at]->name);
            $at = $this->rows[$at]->parent;
        }

        return $names;
    }

    /**
     * @return list<array{string, int, string}> name, depth, node; in the order of the tree
     */
    public function outline(): array
    {
        $lines = [];
        $open = array_map(static fn (string $node): array => [$node, 0], array_reverse($this->children[''] ?? []));
        while ($open !== []) {
            [$node, $depth] = array_pop($open);
            $lines[] = [$this->rows[$node]->name, $depth, $node];
            foreach (array_reverse($this->children[$node] ?? []) as $child) {
                $open[] = [$child, $depth + 1];
            }
        }

        return $lines;
    }
}
