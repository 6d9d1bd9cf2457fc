<?php

declare(strict_types=1);

namespace App\Estate\Rollups;

use Fulcrion\Core\Sql\Printer;

/**
 * A rollup as it is kept.
 */
final readonly class RollupState
{
    /**
     * @param  array<string, array{uses: int, savedUs: float, savedBytes: float, keptUs: float}>  $days oldest first
     */
    public function __construct(
        /** schema.rollup */
        public string $name,
        /** schema.table its rows come from. */
        public string $table,
        public string $sql,
        /** fold or skip. */
        public string $stale,
        public int $rows,
        /** Of the modelled cluster. */
        public float $bytes,
        public int $createdUs,
        public int $refreshedUs,
        /** Chunks of the table it does not know yet, and their rows. */
        public int $missingChunks,
        public int $missingRows,
        /** Why it cannot be used at all; empty where it can. */
        public string $broken,
        public array $days,
    ) {
    }

    /**
     * @return array{uses: int, savedUs: float, keptUs: float} of the days from one on
     */
    public function since(string $day): array
    {
        $sum = ['uses' => 0, 'savedUs' => 0.0, 'keptUs' => 0.0];
        foreach ($this->days as $one => $values) {
            if ($one >= $day) {
                $sum = [
                    'uses' => $sum['uses'] + $values['uses'],
                    'savedUs' => $sum['savedUs'] + $values['savedUs'],
                    'keptUs' => $sum['keptUs'] + $values['keptUs'],
                ];
            }
        }

        return $sum;
    }

    public function create(): string
    {
        return "CREATE ROLLUP {$this->path()}".($this->stale === 'fold' ? '' : " WITH (stale = {$this->stale})")." AS {$this->sql}";
    }

    public function drop(): string
    {
        return "DROP ROLLUP {$this->path()}";
    }

    public function refresh(): string
    {
        return "REFRESH ROLLUP {$this->path()}";
    }

    private function path(): string
    {
        return (new Printer())->path(explode('.', $this->name, 2));
    }
}
