<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

/**
 * Which chunks to write anew so that few are small and none is huge. Only small and huge ones are rewritten; within a
 * node and partition, small ones that lie beside each other go together, filled up to the target (next-fit over the
 * order of the clustering key, which wastes at most half of each bin and keeps neighbours together).
 */
final readonly class Compaction
{
    /** A chunk above this many times the target is split. */
    private const HUGE = 2.0;

    /**
     * @param  list<list<int>>  $bins numbers of chunks written together, each bin at most about a target
     */
    private function __construct(
        public array $bins,
        public int $chunksRead,
        public int $chunksAfter,
        public int $bytesRewritten,
        public int $rowsRewritten,
    ) {
    }

    public static function of(TableLayout $layout, ?string $orderBy = null): self
    {
        $orderBy ??= $layout->definition->clustering[0] ?? null;
        $number = $orderBy === null ? -1 : $layout->definition->index($orderBy);
        $groups = $huge = [];
        foreach ($layout->chunks as $i => $chunk) {
            if ($layout->isSmall($chunk)) {
                $groups["{$chunk->node}|{$chunk->partition}"][] = $i;
            } elseif ($layout->size($chunk) > self::HUGE * $layout->target()) {
                $huge[] = $i;
            }
        }
        $bins = [];
        $after = 0;
        foreach ($groups as $members) {
            if ($number >= 0) {
                usort(
                    $members,
                    static fn (int $a, int $b): int => [self::least($layout->chunks[$a], $number), $a] <=> [
                        self::least($layout->chunks[$b], $number),
                        $b,
                    ],
                );
            }
            $bin = [];
            $size = 0;
            foreach ($members as $i) {
                $own = $layout->size($layout->chunks[$i]);
                if ($bin !== [] && $size + $own > $layout->target()) {
                    if (count($bin) > 1) {
                        $bins[] = $bin;
                        $after++;
                    }
                    [$bin, $size] = [[], 0];
                }
                $bin[] = $i;
                $size += $own;
            }
            // One alone gains nothing by being written again.
            if (count($bin) > 1) {
                $bins[] = $bin;
                $after++;
            }
        }
        foreach ($huge as $i) {
            $bins[] = [$i];
            $after += (int) ceil($layout->size($layout->chunks[$i]) / $layout->target());
        }
        $all = array_merge(...$bins);

        return new self(
            $bins,
            count($all),
            $after,
            array_sum(array_map(static fn (int $i): int => $layout->chunks[$i]->bytes, $all)),
            array_sum(array_map(static fn (int $i): int => $layout->chunks[$i]->rows, $all)),
        );
    }

    public function chunksSaved(): int
    {
        return $this->chunksRead - $this->chunksAfter;
    }

    private static function least(Chunk $chunk, int $number): int|float|string|bool|null
    {
        return $chunk->zones[$number]->min;
    }
}
