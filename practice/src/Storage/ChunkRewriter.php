<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Storage;

use Closure;
use Fulcrion\Core\Parquet\ParquetReader;
use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Core\Storage\TableDefinition;

/**
 * Writes groups of chunks anew, each sorted and cut as its table states, on the node and in the partition they are.
 * The rows stay the same; nothing is seen before the new version is published.
 */
final readonly class ChunkRewriter
{
    /**
     * @param  Closure(): void  $tick called now and then; may throw to stop
     */
    public function __construct(private TableStore $table, private Closure $tick)
    {
    }

    /**
     * @param  list<list<int>>  $groups numbers of chunks of one node and partition each
     * @param  TableDefinition|null  $as how these chunks are written, where otherwise than the table's own
     * @param  bool  $stays whether the table is written that way from then on
     * @return array{Manifest, int, int, list<array{list<string>, list<string>}>} the new version, chunks written, their bytes,
     *     and of each group the files that went and those that came
     */
    public function rewrite(Manifest $base, array $groups, int $nowUs, ?TableDefinition $as = null, bool $stays = false): array
    {
        $definition = $as ?? $base->definition;
        $version = $base->version + 1;
        $gone = $made = $moves = [];
        try {
            foreach ($groups as $group) {
                $columns = array_fill(0, count($definition->columns), []);
                foreach ($group as $number) {
                    ($this->tick)();
                    $chunk = $base->chunks[$number];
                    $gone[$number] = true;
                    $reader = ParquetReader::open(new FileSource($this->table->file($chunk)));
                    foreach ($definition->columns as $i => $column) {
                        array_push($columns[$i], ...$reader->readAll($column->name));
                    }
                }
                if ($definition->clustering !== []) {
                    $order = $definition
                        ->clustering()
                        ->order(array_map(static fn (string $name): array => $columns[$definition->index($name)], $definition->clustering));
                    $columns = array_map(static fn (array $list): array => array_map(static fn (int $i) => $list[$i], $order), $columns);
                }
                $first = $base->chunks[$group[0]];
                $had = count($made);
                $rows = count($columns[0]);
                for ($at = 0; $at < $rows; $at += $definition->chunkRows) {
                    $made[] = $this->table->writeChunk(
                        $definition,
                        $version,
                        count($made),
                        $first->node,
                        $first->partition,
                        array_map(static fn (array $list): array => array_slice($list, $at, $definition->chunkRows), $columns),
                    );
                }
                $moves[] = [
                    array_map(static fn (int $number): string => $base->chunks[$number]->file, $group),
                    array_map(static fn (Chunk $chunk): string => $chunk->file, array_slice($made, $had)),
                ];
            }
        } catch (\Throwable $error) {
            foreach ($made as $chunk) {
                @unlink($this->table->file($chunk));
            }
            throw $error;
        }
        $manifest = new Manifest(
            $version,
            $nowUs,
            $stays ? $definition : $base->definition,
            [...array_values(array_diff_key($base->chunks, $gone)), ...$made],
            $base->rowsChanged,
        );
        $this->table->publish($manifest);

        return [$manifest, count($made), array_sum(array_map(static fn (Chunk $chunk): int => $chunk->bytes, $made)), $moves];
    }
}
