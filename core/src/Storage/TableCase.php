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
        $sum = 0.0;
        foreach ($this->estate->workload->statements as $statement) {
            foreach ($statement->tables as $use) {
                if ($use->table === $this->table->name && $use->columns !== []) {
                    $sum += $statement->executions * $each($use, $statement);
                }
            }
        }

        return $sum;
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
