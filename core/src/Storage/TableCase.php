<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

/**
 * One table under audit.
 */
final readonly class TableCase
{
    public function __construct(public TableLayout $table, public Estate $estate, public ?Sample $sample)
    {
    }

    /**
     * Sums something over all executions of a week that read the table.
     *
     * @param  callable(TableUse, StatementUse): float  $each of one execution
     */
    public function sum(callable $each): float
    {
        return array_sum($this->byStatement($each));
    }

    /**
     * The same sum, statement by statement.
     *
     * @param  callable(TableUse, StatementUse): float  $each of one execution
     * @return array<string, float> by fingerprint
     */
    public function byStatement(callable $each): array
    {
        $sums = [];
        foreach ($this->estate->workload->statements as $statement) {
            foreach ($statement->tables as $use) {
                if ($use->table === $this->table->name && $use->columns !== []) {
                    $sums[$statement->id] = ($sums[$statement->id] ?? 0.0) + $statement->executions * $each($use, $statement);
                }
            }
        }

        return $sums;
    }

    public function model(): ReadModel
    {
        return $this->estate->reads($this->table);
    }

    public function modelledRows(): int
    {
        return $this->table->rows() * $this->table->rowFactor;
    }
}
