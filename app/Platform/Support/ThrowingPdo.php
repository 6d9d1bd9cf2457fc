<?php

declare(strict_types=1);

namespace App\Platform\Support;

use PDO;
use PDOException;
use PDOStatement;

/**
 * A connection whose failures are always exceptions, whatever its options say.
 */
final class ThrowingPdo extends PDO
{
    /** @throws PDOException */
    public function query(string $query, ?int $fetchMode = null, mixed ...$fetchModeArgs): PDOStatement
    {
        $statement = $fetchMode === null ? parent::query($query) : parent::query($query, $fetchMode, ...$fetchModeArgs);

        return $statement === false ? throw new PDOException('The server refused the statement.') : $statement;
    }
}
