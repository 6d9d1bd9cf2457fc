<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

/**
 * Which chunks are out of the order of the clustering key: within a node and partition, runs of chunks whose spans of
 * its first column reach into each other.
 */
final readonly class Reordering
{
    /**
     * @param  list<non-empty-list<int>>  $groups numbers of chunks to be sorted together
     */
    private function __construct(public array $groups, public int $chunks, public int $bytes)
    {
    }

    /**
     * @param  int  $mostRows of a group; longer runs are cut, and what is left is for the next time
     */
    public static function of(TableLayout $layout, int $mostRows = 400_000): self
    {
        $column = $layout->definition->clustering[0] ?? null;
        if ($column === null) {
            return new self([], 0, 0);
        }
        $number = $layout->definition->index($column);
        $byPlace = [];
        foreach ($layout->chunks as $i => $chunk) {
            if ($chunk->zones[$number]->min !== null) {
                $byPlace["{$chunk->node}|{$chunk->partition}"][] = $i;
            }
        }
        $groups = [];
        // Along a curve every chunk may span the first column, so a run there is what lies in new, small chunks.
        $curve = $layout->definition->curve !== '';
        foreach ($byPlace as $members) {
            usort(
                $members,
                static fn (int $a, int $b): int => [$layout->chunks[$a]->zones[$number]->min, $a] <=> [
                    $layout->chunks[$b]->zones[$number]->min,
                    $b,
                ],
            );
            $run = [];
            $rows = 0;
            $max = null;
            foreach ($members as $i) {
                $chunk = $layout->chunks[$i];
                $zone = $chunk->zones[$number];
                $joins = $curve
                    ? $layout->isSmall($chunk)
                    : $max !== null && $zone->min !== null && Predicate::compare($zone->min, $max) < 0;
                if ($run !== [] && (! $joins || $rows + $chunk->rows > $mostRows)) {
                    if (count($run) > 1) {
                        $groups[] = $run;
                    }
                    [$run, $rows, $max] = [[], 0, null];
                }
                if (! $curve || $joins) {
                    $run[] = $i;
                    $rows += $chunk->rows;
                    $max = $max === null || ($zone->max !== null && Predicate::compare($zone->max, $max) > 0) ? $zone->max : $max;
                }
            }
            if (count($run) > 1) {
                $groups[] = $run;
            }
        }
        $all = array_merge(...$groups);

        return new self($groups, count($all), array_sum(array_map(static fn (int $i): int => $layout->chunks[$i]->bytes, $all)));
    }
}
