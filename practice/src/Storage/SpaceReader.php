<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Storage;

use Fulcrion\Core\Capacity\PartKind;
use Fulcrion\Core\Capacity\StoredPart;
use Fulcrion\Core\Storage\Chunk;

/**
 * What takes space in a practice cluster, on the modelled scale; a file that lies on every node counts once a node.
 */
final readonly class SpaceReader
{
    /** Younger files may belong to a writer at work. */
    private const ORPHAN_SECONDS = 3_600;

    /**
     * @return list<StoredPart>
     */
    public static function parts(Warehouse $warehouse, int $nowSeconds): array
    {
        $parts = [];
        $scale = $warehouse->profile->rowFactor;
        foreach ($warehouse->every() as $table) {
            $name = "{$table->schema}.{$table->name}";
            $manifest = $table->manifest();
            $needed = array_fill_keys(array_map(static fn (Chunk $chunk): string => $chunk->file, $manifest->chunks), 0);
            $old = 0;
            foreach ($table->versions() as $version) {
                $alone = $version === $manifest->version ? []
                    : array_diff_key($table->outline($version, $warehouse->nodes)['files'], $needed);
                $needed += $alone;
                $old += array_sum($alone);
            }
            foreach ([
                [PartKind::Table, $manifest->bytes($warehouse->nodes)],
                [PartKind::Versions, $old],
                [PartKind::Orphans, array_sum($table->orphans($nowSeconds - self::ORPHAN_SECONDS))],
            ] as [$kind, $bytes]) {
                if ($bytes > 0) {
                    $parts[] = new StoredPart($kind, $name, (float) $bytes * $scale);
                }
            }
        }

        return $parts;
    }
}
