<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Storage;

use Closure;
use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Parquet\ParquetReader;
use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Practice\Lineage\TableOrigins;

/**
 * Copies a table into another cluster as it lies: the same chunks where they can be, dealt anew where the nodes differ
 * in a way that does not allow it.
 */
final readonly class TableCopy
{
    public function __construct(private Warehouse $into)
    {
    }

    /**
     * @param  array{string, string}  $as schema, table
     * @param  float  $share of the chunks, spread evenly over the table
     * @param  Closure(): void  $tick called now and then; may throw to stop
     * @return int rows
     */
    public function copy(TableStore $from, Warehouse $home, array $as, float $share, int $nowUs, Closure $tick): int
    {
        $manifest = $from->manifest();
        $table = $this->into->createTable($as[0], $as[1], $manifest->definition, $nowUs);
        try {
            $table->descend(TableOrigins::ofCopy($from, $home->root === $this->into->root ? '' : basename($home->root)));
            $wanted = [];
            $carried = 0.0;
            foreach ($manifest->chunks as $chunk) {
                $carried += $share;
                if ($carried >= 1.0 - 1e-9) {
                    $carried -= 1.0;
                    $wanted[] = $chunk;
                }
            }
            // Rows of one node stay together when nodes fold onto each other without remainder.
            $rows =
                $home->nodes % $this->into->nodes === 0
                    ? $this->asTheyAre($from, $table, $wanted, $nowUs, $tick)
                    : $this->dealt($from, $table, $wanted, $nowUs, $tick);
            $statistics = $from->statistics();
            if ($statistics !== null) {
                // What is known of the original is known of its copy, by the same share of rows changed since.
                $changed = $manifest->rowsChanged - $statistics->rowsChanged;
                $now = $table->manifest()->rowsChanged;
                $table->keep(
                    new TableStatistics(
                        $statistics->collectedUs,
                        (int) round($statistics->rows * $share),
                        max(0, $now - (int) round($changed * $share)),
                        $statistics->columns,
                    ),
                );
            }

            return $rows;
        } catch (\Throwable $error) {
            $table->remove();
            throw $error;
        }
    }

    /**
     * @param  list<Chunk>  $chunks
     */
    private function asTheyAre(TableStore $from, TableStore $table, array $chunks, int $nowUs, Closure $tick): int
    {
        $base = $table->manifest();
        $copied = [];
        foreach ($chunks as $number => $chunk) {
            $tick();
            // Named by the copy's own versions: what is written to it later must not take the name of one of these.
            $file = 'c'.($base->version + 1)."-{$number}.parquet";
            if (! @copy($from->file($chunk), "{$table->directory}/{$file}")) {
                throw new \Fulcrion\Practice\WarehouseError(
                    'A chunk could not be copied: the table was dropped or rewritten meanwhile, or the disk is full.',
                );
            }
            $copied[] = new Chunk(
                $file,
                $chunk->node === Chunk::EVERY_NODE ? Chunk::EVERY_NODE : $chunk->node % $this->into->nodes,
                $chunk->partition,
                $chunk->rows,
                $chunk->bytes,
                $chunk->zones,
            );
        }
        $manifest = new Manifest(
            $base->version + 1,
            $nowUs,
            $base->definition,
            $copied,
            array_sum(array_map(static fn (Chunk $chunk): int => $chunk->rows, $copied)),
        );
        $table->publish($manifest);

        return $manifest->rows();
    }

    /**
     * @param  list<Chunk>  $chunks
     */
    private function dealt(TableStore $from, TableStore $table, array $chunks, int $nowUs, Closure $tick): int
    {
        $base = $table->manifest();
        $writer = new TableWriter($table, $base, $this->into->nodes);
        foreach ($chunks as $chunk) {
            $tick();
            $reader = ParquetReader::open(new FileSource($from->file($chunk)));
            $writer->add(array_map(static fn (Column $column): array => $reader->readAll($column->name), $base->definition->columns));
            $writer->cut();
        }

        return $writer->commit($nowUs)->rows();
    }
}
