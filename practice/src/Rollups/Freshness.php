<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Rollups;

use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Practice\Storage\Manifest;

/**
 * Which parts of a rollup hold good for a version of its table. Chunks never change: a part holds good while all the
 * chunks it was computed from are in the table, and what no such part knows has to be read from the table.
 */
final readonly class Freshness
{
    /**
     * @return array{list<string>, list<Chunk>, list<Segment>} chunks of the rollup that hold good, chunks of the table they do not know,
     *     segments that hold good
     */
    public static function of(Rollup $rollup, Manifest $table): array
    {
        $there = [];
        foreach ($table->chunks as $chunk) {
            $there[$chunk->file] = true;
        }
        $kept = $known = $segments = [];
        foreach ($rollup->segments as $segment) {
            foreach ($segment->from as $file) {
                if (! isset($there[$file])) {
                    continue 2;
                }
            }
            $segments[] = $segment;
            array_push($kept, ...$segment->chunks);
            $known += array_flip($segment->from);
        }

        return [
            $kept,
            array_values(array_filter($table->chunks, static fn (Chunk $chunk): bool => ! isset($known[$chunk->file]))),
            $segments,
        ];
    }
}
