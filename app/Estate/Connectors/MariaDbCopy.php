<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use App\Platform\Support\ThrowingPdo;
use Closure;
use PDOException;

/**
 * Copies rows of a table of a live server into a schema for rehearsals, as little noticed as can be: a few thousand at a time by the
 * primary key, without locks on what is read, and resting as long as it worked.
 */
final readonly class MariaDbCopy
{
    /** Rows at a time. */
    public const BATCH = 2_000;

    /** Of a sample: so many places of the table, and at each as many rows as it takes. */
    private const PLACES = 200;

    private const LONGEST_REST_US = 1_000_000;

    public function __construct(private ThrowingPdo $pdo)
    {
    }

    /**
     * @param  string  $from schema.table
     * @param  string  $to schema.table that is there and empty
     * @param  float  $share of the rows
     * @param  Closure(float): void  $each is told how far it is after each batch, and may end it by throwing
     * @return int rows
     *
     * @throws PDOException
     */
    public function rows(string $from, string $to, float $share, Closure $each): int
    {
        // INSERT ... SELECT locks what it reads in any stricter one.
        $this->pdo->exec('SET SESSION TRANSACTION ISOLATION LEVEL READ COMMITTED');
        $tables = new MariaDbTables($this->pdo);
        $key = $tables->numberKey($from);
        $count = max(1.0, (float) $tables->rows($from));
        if ($key === null) {
            // Without a number to go by there is no place to go on from.
            return $this->pdo->exec('INSERT INTO '.MariaDbTables::path($to).' SELECT * FROM '.MariaDbTables::path($from).
                ($share < 1 ? ' LIMIT '.max(1, (int) ($count * $share)) : ''));
        }

        return $share < 1
            ? $this->sample($from, $to, $key, (int) ceil($count * $share / self::PLACES), $each)
            : $this->whole($from, $to, $key, $count, $each);
    }

    /**
     * @param  Closure(float): void  $each
     */
    private function whole(string $from, string $to, string $key, float $count, Closure $each): int
    {
        $last = null;
        $rows = 0;
        do {
            $began = hrtime(true);
            $copied = $this->batch($from, $to, $key, $last === null ? '' : ">{$last}", self::BATCH);
            $rows += $copied;
            $last = $this->last($to, $key);
            $this->rest($began);
            $each(min(1.0, $rows / $count));
        } while ($copied === self::BATCH);

        return $rows;
    }

    /**
     * @param  Closure(float): void  $each
     */
    private function sample(string $from, string $to, string $key, int $batch, Closure $each): int
    {
        $rows = 0;
        $last = null;
        foreach ((new MariaDbTables($this->pdo))->places($from, $key, self::PLACES) as $i => $at) {
            $began = hrtime(true);
            // Where rows are few, the places before may have reached this one already.
            $rows += $this->batch($from, $to, $key, $last !== null && $at <= $last ? ">{$last}" : ">={$at}", max(1, $batch));
            $last = $this->last($to, $key);
            $this->rest($began);
            $each(($i + 1) / self::PLACES);
        }

        return $rows;
    }

    private function batch(string $from, string $to, string $key, string $where, int $limit): int
    {
        $name = MariaDbTables::quoted($key);

        return $this->pdo->exec('INSERT INTO '.MariaDbTables::path($to).' SELECT * FROM '.MariaDbTables::path($from).
            ($where === '' ? '' : " WHERE {$name} {$where}")." ORDER BY {$name} LIMIT {$limit}");
    }

    /** As long as it took, so that at most half of the time somebody else has to share the server. */
    private function rest(int $beganNs): void
    {
        usleep(min(self::LONGEST_REST_US, intdiv((int) hrtime(true) - $beganNs, 1000)));
    }

    private function last(string $table, string $key): ?int
    {
        $last = $this->pdo->query('SELECT MAX('.MariaDbTables::quoted($key).') FROM '.MariaDbTables::path($table))->fetchColumn();

        return $last === false || $last === null ? null : (int) $last;
    }
}
