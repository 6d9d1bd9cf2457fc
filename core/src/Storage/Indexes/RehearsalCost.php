<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Indexes;

use Fulcrion\Core\Statistics\Spread;

/**
 * What it takes to try an index on a copy of its table: rows are copied one after the other, and an index is sorted, which takes
 * n log n (Knuth, The Art of Computer Programming, vol. 3, 5.4).
 */
final readonly class RehearsalCost
{
    /** Rows per which the building of an index is stated. */
    private const STATED_AT = 100_000.0;

    /**
     * @param  int  $tableRows of the whole table
     * @param  float  $rowBytes of a row with its indexes
     * @param  float  $copyUsPerByte of work; as much rest comes on top
     * @param  float  $buildUsPerRow of an index on a hundred thousand rows
     * @param  int  $rehearsals it was measured in; 0 where it is modelled by reading some rows
     */
    public function __construct(
        public int $tableRows,
        public float $rowBytes,
        public float $copyUsPerByte,
        public float $buildUsPerRow,
        public int $rehearsals,
    ) {
    }

    /**
     * @param  list<array{rows: int, bytes: float, copyUs: float, buildUs: float}>  $measured earlier ones on the same server; copyUs with
     *     its rests
     * @param  float  $readUsPerRow how long reading a row took just now
     */
    public static function of(int $tableRows, float $rowBytes, array $measured, float $readUsPerRow): self
    {
        $rowBytes = max(1.0, $rowBytes);
        $known = array_values(array_filter($measured, static fn (array $one): bool => $one['rows'] >= 1_000 && $one['bytes'] > 0));
        if ($known === []) {
            // Writing a row takes about three times what reading it does, and each entry of an index about two microseconds: measured on
            // MariaDB 10.11 with rows of 40 to 200 bytes.
            return new self($tableRows, $rowBytes, 4 * $readUsPerRow / $rowBytes, 2.0, 0);
        }
        $copy = array_map(static fn (array $one): float => $one['copyUs'] / 2 / $one['bytes'], $known);
        $build = array_map(static fn (array $one): float => $one['buildUs'] / $one['rows'] / self::sorting($one['rows']), $known);

        return new self($tableRows, $rowBytes, Spread::median($copy), Spread::median($build), count($known));
    }

    /** Rows of a copy of such a share. */
    public function rows(float $share): int
    {
        return (int) ceil($this->tableRows * max(0.0, min(1.0, $share)));
    }

    /** Bytes the copy takes on disk until it is gone again. */
    public function bytes(float $share): float
    {
        return $this->rows($share) * $this->rowBytes;
    }

    /** Time to copy, its rests included. */
    public function copyUs(float $share): float
    {
        return 2 * $this->bytes($share) * $this->copyUsPerByte;
    }

    /** Time to make the index on so many rows. */
    public function buildUs(int $rows): float
    {
        return $rows * $this->buildUsPerRow * self::sorting($rows);
    }

    /**
     * What making it on the whole table takes, by what it took on the copy.
     *
     * @param  int  $copied rows of the copy
     */
    public function tableUs(int $copied, float $measuredUs): float
    {
        return $copied < 1 ? $this->buildUs($this->tableRows)
            : $measuredUs * ($this->tableRows * self::sorting($this->tableRows)) / ($copied * self::sorting($copied));
    }

    /**
     * @return array{tableRows: int, rowBytes: float, copyUsPerByte: float, buildUsPerRow: float, rehearsals: int}
     */
    public function toArray(): array
    {
        return [
            'tableRows' => $this->tableRows,
            'rowBytes' => $this->rowBytes,
            'copyUsPerByte' => $this->copyUsPerByte,
            'buildUsPerRow' => $this->buildUsPerRow,
            'rehearsals' => $this->rehearsals,
        ];
    }

    /**
     * @param  array{tableRows: int, rowBytes: float|int, copyUsPerByte: float|int, buildUsPerRow: float|int, rehearsals: int}  $kept
     *     as JSON gives it back
     */
    public static function fromArray(array $kept): self
    {
        return new self(
            $kept['tableRows'],
            (float) $kept['rowBytes'],
            (float) $kept['copyUsPerByte'],
            (float) $kept['buildUsPerRow'],
            $kept['rehearsals'],
        );
    }

    /** How much longer a row takes among so many than among those it is stated for. */
    private static function sorting(int $rows): float
    {
        return log(max(2, $rows)) / log(self::STATED_AT);
    }
}
