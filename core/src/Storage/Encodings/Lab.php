<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Encodings;

use Closure;
use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Parquet\Encoding;
use Fulcrion\Core\Parquet\Packing;
use Fulcrion\Core\Parquet\ParquetError;
use Fulcrion\Core\Parquet\ParquetReader;
use Fulcrion\Core\Parquet\StringSource;

/**
 * Stores sampled rows for real in every way worth trying, and reads them back. Columns lie apart in a Parquet file, so
 * each is tried by itself; what is written of several is the sum.
 */
final readonly class Lab
{
    /** Orders of columns that are tried to find a better one. */
    private const TRIES = 10;

    /** Chunks that are stored each way, from however many places. */
    public const PIECES = 6;

    private const COMPRESSIONS = ['none', 'gzip1', 'gzip5', 'gzip9'];

    /**
     * @param  list<Column>  $columns
     * @param  Closure(): int  $clockNs
     * @param  Closure(string, float): void  $tell what is being done, and what share is done; may throw to stop
     * @param  array<string, array{Closure(string): string,
     *     Closure(string): string}>  $further compressions of rows beside gzip: how to press and how to open
     * @param  int  $pieces chunks that are stored each way
     */
    public function __construct(
        private array $columns,
        private int $chunkRows,
        private Closure $clockNs,
        private Closure $tell,
        private array $further = [],
        private int $pieces = self::PIECES,
    ) {
    }

    /**
     * @param  non-empty-list<Place>  $places
     * @param  list<string>  $key the table is sorted by now
     *
     * @throws ParquetError
     */
    public function run(array $places, array $key): LabResult
    {
        ($this->tell)('counting values', 0.02);
        $facts = [];
        foreach ($this->columns as $column) {
            $facts[$column->name] = self::facts($places, $column->name);
        }
        $orders = ['as it comes' => []];
        if ($key !== []) {
            $orders['by its key'] = $key;
        }
        ($this->tell)('looking for a better order', 0.05);
        $best = $this->order($places[0], $facts);
        if ($best !== [] && ! in_array($best, $orders, true)) {
            $orders['best found'] = $best;
        }
        $trials = [];
        $pieces = [];
        $step = 0;
        $steps = count($orders) * (count($this->columns) + 1);
        foreach ($orders as $order => $by) {
            $pieces = $this->pieces($places, $by);
            foreach ($this->columns as $column) {
                foreach ([null, ...Encoding::cases()] as $encoding) {
                    if ($encoding !== null && ! $encoding->fits($column->type->kind)) {
                        continue;
                    }
                    ($this->tell)("{$column->name} ".($encoding?->label() ?? 'as suits it').", {$order}", 0.1 + (0.9 * $step) / $steps);
                    foreach (self::COMPRESSIONS as $compression) {
                        $trials[] = $this->column($column, $encoding, $compression, $order, $pieces);
                    }
                }
                $step++;
            }
            if ($by === []) {
                foreach ([...self::COMPRESSIONS, ...array_map(strval(...), array_keys($this->further))] as $compression) {
                    ($this->tell)("row by row, {$compression}", 0.1 + (0.9 * $step) / $steps);
                    $trials[] = $this->rows($compression, $order, $pieces);
                }
            }
            $step++;
        }

        return new LabResult(array_map(static fn (Place $piece): int => $piece->rows(), $pieces), $orders, $facts, $trials);
    }

    /**
     * @param  non-empty-list<Place>  $places
     * @param  list<string>  $by
     * @return list<Place>
     */
    private function pieces(array $places, array $by): array
    {
        $pieces = [];
        foreach ($places as $number => $place) {
            $place = $place->sorted($by);
            for (
                $i = 0, $most = min((int) ceil($this->pieces / count($places)), max(1, intdiv($place->rows(), $this->chunkRows)));
                $i < $most;
                $i++
            ) {
                $pieces[] = $this->piece($place, $number + $i);
            }
        }

        return $pieces;
    }

    /**
     * As much of a place as lies in one whole chunk, of each place another one, since chunks of a sorted place differ.
     */
    private function piece(Place $place, int $number = 0): Place
    {
        $chunks = max(1, intdiv($place->rows(), $this->chunkRows));

        return $place->part((($number * 7 + intdiv($chunks, 2)) % $chunks) * $this->chunkRows, $this->chunkRows);
    }

    /**
     * @param  list<Place>  $pieces
     *
     * @throws ParquetError
     */
    private function column(Column $column, ?Encoding $encoding, string $compression, string $order, array $pieces): EncodingTrial
    {
        /** @var key-of<Packing::COMPRESSIONS> $compression */
        $writer = (new Packing($encoding === null ? [] : [$column->name => $encoding], $compression))->writer();
        $bytes = [];
        [$writeNs, $readNs] = [0, 0];
        foreach ($pieces as $piece) {
            $start = ($this->clockNs)();
            $file = $writer->write([$column], [$piece->columns[$column->name]]);
            $written = ($this->clockNs)();
            ParquetReader::open(new StringSource($file))->readAll($column->name);
            $writeNs += $written - $start;
            $readNs += ($this->clockNs)() - $written;
            $bytes[] = strlen($file);
        }

        return new EncodingTrial($column->name, $encoding?->word() ?? '', $compression, $order, $bytes, $writeNs, $readNs);
    }

    /**
     * @param  list<Place>  $pieces
     */
    private function rows(string $compression, string $order, array $pieces): EncodingTrial
    {
        $format = new RowFormat($this->columns);
        [$pack, $unpack] = $this->squeezers($compression);
        $bytes = [];
        [$writeNs, $readNs] = [0, 0];
        foreach ($pieces as $piece) {
            $start = ($this->clockNs)();
            $file = $pack($format->encode($piece));
            $written = ($this->clockNs)();
            $format->decode($unpack($file));
            $writeNs += $written - $start;
            $readNs += ($this->clockNs)() - $written;
            $bytes[] = strlen($file);
        }

        return new EncodingTrial('', 'rows', $compression, $order, $bytes, $writeNs, $readNs);
    }

    /**
     * @return array{Closure(string): string, Closure(string): string}
     */
    private function squeezers(string $compression): array
    {
        $level = Packing::COMPRESSIONS[$compression] ?? 0;
        if (isset($this->further[$compression])) {
            return $this->further[$compression];
        }

        return $level === 0
            ? [static fn (string $bytes): string => $bytes, static fn (string $bytes): string => $bytes]
            : [
                static fn (string $bytes): string => (string) gzencode($bytes, $level),
                static fn (string $bytes): string => (string) gzdecode($bytes),
            ];
    }

    /**
     * Columns of few values first, then whatever exchange of two neighbours makes a chunk smaller.
     *
     * @param  array<string, array{distinct: int, run: float}>  $facts
     * @return list<string>
     *
     * @throws ParquetError
     */
    private function order(Place $place, array $facts): array
    {
        $columns = array_values(
            array_filter(
                $this->columns,
                static fn (Column $column): bool => $facts[$column->name]['distinct'] > 1 && $column->type->kind !== TypeKind::Boolean,
            ),
        );
        usort($columns, static fn (Column $a, Column $b): int => $facts[$a->name]['distinct'] <=> $facts[$b->name]['distinct']);
        $best = array_map(static fn (Column $column): string => $column->name, array_slice($columns, 0, 4));
        if ($best === []) {
            return [];
        }
        $size = $this->size($place, $best);
        for ($tries = 0, $i = 0; $tries < self::TRIES && $i < count($best) - 1; $tries++) {
            $other = $best;
            [$other[$i], $other[$i + 1]] = [$best[$i + 1], $best[$i]];
            $other = array_values($other);
            $bytes = $this->size($place, $other);
            if ($bytes < $size) {
                [$best, $size, $i] = [$other, $bytes, 0];
            } else {
                $i++;
            }
        }

        return $best;
    }

    /**
     * @param  list<string>  $by
     *
     * @throws ParquetError
     */
    private function size(Place $place, array $by): int
    {
        $piece = $this->piece($place->sorted($by));

        return strlen(
            (new Packing([], 'gzip1'))
                ->writer()
                ->write($this->columns, array_map(static fn (Column $column): array => $piece->columns[$column->name], $this->columns)),
        );
    }

    /**
     * @param  list<Place>  $places
     * @return array{distinct: int, run: float} distinct values of the sample, mean length of runs of equal ones
     */
    private static function facts(array $places, string $column): array
    {
        $seen = [];
        $runs = $rows = 0;
        foreach ($places as $place) {
            $before = new \stdClass();
            foreach ($place->columns[$column] as $value) {
                if ($value !== $before) {
                    $runs++;
                    $before = $value;
                }
                $seen[is_float($value) ? pack('e', $value) : (is_bool($value) ? (int) $value : $value ?? "\0")] = true;
                $rows++;
            }
        }

        return ['distinct' => count($seen), 'run' => $runs === 0 ? 0.0 : $rows / $runs];
    }
}
