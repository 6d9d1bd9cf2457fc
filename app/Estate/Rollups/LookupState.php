<?php

declare(strict_types=1);

namespace App\Estate\Rollups;

use Fulcrion\Core\Sql\Printer;

/**
 * A lookup as it is kept.
 */
final readonly class LookupState
{
    /**
     * @param  list<string>  $columns
     * @param  array<string, array{uses: int, savedUs: float, savedBytes: float, keptUs: float}>  $days oldest first
     */
    public function __construct(
        /** schema.lookup */
        public string $name,
        public string $table,
        public string $sql,
        public string $key,
        public array $columns,
        public int $rows,
        /** In the memory of every node of the modelled cluster. */
        public float $bytes,
        public int $createdUs,
        public int $refreshedUs,
        /** Whether its table changed since; it is made anew when it is next asked for. */
        public bool $behind,
        public array $days,
    ) {
    }

    /**
     * @return array{uses: int, savedUs: float} of the days from one on
     */
    public function since(string $day): array
    {
        $sum = ['uses' => 0, 'savedUs' => 0.0];
        foreach ($this->days as $one => $values) {
            if ($one >= $day) {
                $sum = ['uses' => $sum['uses'] + $values['uses'], 'savedUs' => $sum['savedUs'] + $values['savedUs']];
            }
        }

        return $sum;
    }

    public function create(): string
    {
        $printer = new Printer();

        return "CREATE OR REPLACE LOOKUP {$printer->path(explode('.', $this->name, 2))} WITH (key = {$printer->name(
            $this->key,
        )}) AS {$this->sql}";
    }

    public function drop(): string
    {
        return 'DROP LOOKUP IF EXISTS '.(new Printer())->path(explode('.', $this->name, 2));
    }
}
