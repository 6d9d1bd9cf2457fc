<?php

declare(strict_types=1);

namespace App\Platform\Support;

use Closure;
use PDO;
use PDOException;
use PDOStatement;

/**
 * A connection whose failures are always exceptions, whatever its options say.
 */
final class ThrowingPdo extends PDO
{
    /** @var (Closure(string): void)|null hears each statement that is sent as a text */
    public ?Closure $hears = null;

    /** @throws PDOException */
    public function query(string $query, ?int $fetchMode = null, mixed ...$fetchModeArgs): PDOStatement
    {
        if ($this->hears !== null) {
            ($this->hears)($query);
        }
        $statement = $fetchMode === null ? parent::query($query) : parent::query($query, $fetchMode, ...$fetchModeArgs);

        return $statement === false ? throw new PDOException('The server refused the statement.') : $statement;
    }

    /**
     * @param  array<mixed>  $options
     *
     * @throws PDOException
     */
    public function prepare(string $query, array $options = []): PDOStatement
    {
        if ($this->hears !== null) {
            ($this->hears)($query);
        }
        $statement = parent::prepare($query, $options);

        return $statement === false ? throw new PDOException('The server refused the statement.') : $statement;
    }

    /** @throws PDOException */
    public function exec(string $statement): int
    {
        if ($this->hears !== null) {
            ($this->hears)($statement);
        }
        $rows = parent::exec($statement);

        return $rows === false ? throw new PDOException('The server refused the statement.') : $rows;
    }
}
