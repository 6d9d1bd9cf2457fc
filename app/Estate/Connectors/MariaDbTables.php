<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use App\Platform\Support\ThrowingPdo;
use PDO;

/**
 * What a MariaDB says of a table before its rows are read, and how its names are written.
 */
final readonly class MariaDbTables
{
    private const NUMBERS = ['tinyint', 'smallint', 'mediumint', 'int', 'bigint'];

    public function __construct(private ThrowingPdo $pdo)
    {
    }

    /**
     * @param  string  $table schema.table
     * @return int as the server estimates them
     */
    public function rows(string $table): int
    {
        $statement = $this->pdo->prepare('SELECT TABLE_ROWS FROM information_schema.TABLES WHERE TABLE_SCHEMA = ? AND TABLE_NAME = ?');
        $statement->execute(explode('.', $table, 2));

        return (int) $statement->fetchColumn();
    }

    /** The column of the primary key where that is one whole number; null where there is nothing to count along. */
    public function numberKey(string $table): ?string
    {
        $statement = $this->pdo->prepare("SELECT c.COLUMN_NAME, c.DATA_TYPE FROM information_schema.STATISTICS s
            JOIN information_schema.COLUMNS c ON c.TABLE_SCHEMA = s.TABLE_SCHEMA AND c.TABLE_NAME = s.TABLE_NAME
            AND c.COLUMN_NAME = s.COLUMN_NAME WHERE s.TABLE_SCHEMA = ? AND s.TABLE_NAME = ? AND s.INDEX_NAME = 'PRIMARY'");
        $statement->execute(explode('.', $table, 2));
        $key = $statement->fetchAll(PDO::FETCH_NUM);

        return count($key) === 1 && in_array($key[0][1], self::NUMBERS, true) ? (string) $key[0][0] : null;
    }

    /**
     * Places evenly spread over the values of such a key.
     *
     * @return list<int> ascending
     */
    public function places(string $table, string $key, int $count): array
    {
        $name = self::quoted($key);
        $ends = $this->pdo->query("SELECT MIN({$name}), MAX({$name}) FROM ".self::path($table))->fetch(PDO::FETCH_NUM);
        [$least, $most] = $ends === false ? [0, 0] : $ends;

        return array_map(
            static fn (int $i): int => (int) $least + (int) floor(((float) $most - (float) $least) * $i / $count),
            range(0, $count - 1),
        );
    }

    public static function quoted(string $name): string
    {
        return '`'.str_replace('`', '``', $name).'`';
    }

    /** Schema and table, each quoted. */
    public static function path(string $table): string
    {
        return implode('.', array_map(self::quoted(...), explode('.', $table, 2)));
    }
}
