<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use App\Platform\Support\ThrowingPdo;
use Closure;
use PDO;
use PDOException;

/**
 * Copies rows of a table of a live server into a schema for rehearsals, as little noticed as can be: a few thousand at a time by the
 * primary key, without locks on what is read, and resting as long as it worked.
 */
final readonly class MariaDbCopy
{
    private const BATCH = 2_000;

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
        $key = $this->key($from);
        $count = max(1.0, (float) $this->one('SELECT TABLE_ROWS FROM information_schema.TABLES WHERE TABLE_SCHEMA = ? AND TABLE_NAME = ?',
            explode('.', $from, 2)));
        if ($key === null) {
            // Without a number to go by there is no place to go on from.
            return (int) $this->pdo->exec('INSERT INTO '.self::path($to).' SELECT * FROM '.self::path($from).
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
            $last = $this->one('SELECT MAX('.self::quoted($key).') FROM '.self::path($to), []);
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
        $name = self::quoted($key);
        [$least, $most] = $this->pdo->query("SELECT MIN({$name}), MAX({$name}) FROM ".self::path($from))->fetch(PDO::FETCH_NUM) ?: [0, 0];
        $rows = 0;
        $last = null;
        for ($i = 0; $i < self::PLACES; $i++) {
            $began = hrtime(true);
            $at = (int) $least + (int) floor(((float) $most - (float) $least) * $i / self::PLACES);
            // Where rows are few, the places before may have reached this one already.
            $rows += $this->batch($from, $to, $key, $last !== null && $at <= $last ? ">{$last}" : ">={$at}", max(1, $batch));
            $max = $this->one("SELECT MAX({$name}) FROM ".self::path($to), []);
            $last = $max === null ? null : (int) $max;
            $this->rest($began);
            $each(($i + 1) / self::PLACES);
        }

        return $rows;
    }

    private function batch(string $from, string $to, string $key, string $where, int $limit): int
    {
        $name = self::quoted($key);

        return (int) $this->pdo->exec('INSERT INTO '.self::path($to).' SELECT * FROM '.self::path($from).
            ($where === '' ? '' : " WHERE {$name} {$where}")." ORDER BY {$name} LIMIT {$limit}");
    }

    /** As long as it took, so that at most half of the time somebody else has to share the server. */
    private function rest(int $beganNs): void
    {
        usleep(min(self::LONGEST_REST_US, intdiv((int) hrtime(true) - $beganNs, 1000)));
    }

    private function key(string $table): ?string
    {
        $statement = $this->pdo->prepare("SELECT c.COLUMN_NAME, c.DATA_TYPE FROM information_schema.STATISTICS s
            JOIN information_schema.COLUMNS c ON c.TABLE_SCHEMA = s.TABLE_SCHEMA AND c.TABLE_NAME = s.TABLE_NAME
            AND c.COLUMN_NAME = s.COLUMN_NAME WHERE s.TABLE_SCHEMA = ? AND s.TABLE_NAME = ? AND s.INDEX_NAME = 'PRIMARY'");
        $statement->execute(explode('.', $table, 2));
        $key = $statement->fetchAll(PDO::FETCH_NUM);

        return count($key) === 1 && in_array($key[0][1], ['tinyint', 'smallint', 'mediumint', 'int', 'bigint'], true)
            ? (string) $key[0][0]
            : null;
    }

    /**
     * @param  list<string>  $values
     */
    private function one(string $sql, array $values): ?string
    {
        $statement = $this->pdo->prepare($sql);
        $statement->execute($values);
        $value = $statement->fetchColumn();

        return $value === false || $value === null ? null : (string) $value;
    }

    private static function quoted(string $name): string
    {
        return '`'.str_replace('`', '``', $name).'`';
    }

    private static function path(string $table): string
    {
        return implode('.', array_map(self::quoted(...), explode('.', $table, 2)));
    }
}
