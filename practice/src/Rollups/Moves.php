<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Rollups;

use Fulcrion\Practice\Storage\Warehouse;

/**
 * Chunks that were written anew hold the same rows, so what was computed from them still holds: the parts of rollups
 * take the names of the new chunks for those of the old.
 */
final readonly class Moves
{
    /**
     * @param  list<array{list<string>, list<string>}>  $moves files that went, files that hold their rows
     */
    public static function follow(Warehouse $warehouse, string $token, array $moves): void
    {
        $book = $warehouse->rollupBook();
        foreach ($book->rollups() as $rollup) {
            if ($rollup->factToken === $token) {
                $book->keep(
                    new Rollup(
                        $rollup->schema,
                        $rollup->name,
                        $rollup->sql,
                        $rollup->stale,
                        $rollup->token,
                        $rollup->version,
                        $rollup->fact,
                        $rollup->factToken,
                        $rollup->dimensions,
                        self::moved($rollup->segments, $moves),
                        $rollup->createdUs,
                        $rollup->refreshedUs,
                    ),
                );
            }
        }
    }

    /**
     * @param  list<Segment>  $segments
     * @param  list<array{list<string>, list<string>}>  $moves
     * @return list<Segment>
     */
    public static function moved(array $segments, array $moves): array
    {
        foreach ($moves as [$gone, $made]) {
            $old = array_flip($gone);
            $touched = $rest = [];
            foreach ($segments as $segment) {
                if (array_intersect_key(array_flip($segment->from), $old) === []) {
                    $rest[] = $segment;
                } else {
                    $touched[] = $segment;
                }
            }
            if ($touched === []) {
                continue;
            }
            // Rows of several parts, now mixed, are the rows of those parts together.
            $from = array_flip(array_merge(...array_map(static fn (Segment $s): array => $s->from, $touched)));
            $known = array_diff_key($old, $from) === [];
            $kept = array_map(strval(...), array_keys(array_diff_key($from, $old)));
            // Mixed with rows no part knows, they cannot be told from them any more: left as it is, the part is not used.
            $segments = $known
                ? [
                    ...$rest,
                    new Segment(
                        $touched[0]->partition,
                        [...$kept, ...$made],
                        array_merge(...array_map(static fn (Segment $s): array => $s->chunks, $touched)),
                    ),
                ]
                : [...$rest, ...$touched];
        }

        return $segments;
    }
}
