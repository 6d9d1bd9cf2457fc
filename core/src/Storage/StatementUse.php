<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

/**
 * A statement of the workload and what it does with each table; figures are those of one week.
 */
final readonly class StatementUse
{
    /**
     * @param  list<TableUse>  $tables
     */
    public function __construct(
        /** Fingerprint, 32 hexadecimal digits. */
        public string $id,
        public float $executions,
        /** Time of all executions; modelled or measured, as its cluster does. */
        public float $durationUs,
        public float $bytesRead,
        public array $tables,
        /** As it was last run, with its values; normalised where no run was kept. */
        public string $sql = '',
        public string $user = '',
        public string $schema = '',
    ) {
    }

    public function of(string $table): ?TableUse
    {
        foreach ($this->tables as $use) {
            if ($use->table === $table) {
                return $use;
            }
        }

        return null;
    }
}
