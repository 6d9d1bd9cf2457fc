<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

/**
 * Words that cannot be a name without quotes, because the grammar needs them where a name could stand.
 */
final class Reserved
{
    public const WORDS = [
        'ALL' => 1, 'AND' => 1, 'ANY' => 1, 'AS' => 1, 'ASC' => 1, 'BETWEEN' => 1, 'BY' => 1, 'CASE' => 1, 'CAST' => 1, 'CREATE' => 1, 'CROSS' => 1, 'DELETE' => 1,
        'DESC' => 1, 'DISTINCT' => 1, 'DROP' => 1, 'ELSE' => 1, 'END' => 1, 'EXCEPT' => 1, 'EXISTS' => 1, 'FALSE' => 1, 'FETCH' => 1, 'FROM' => 1,
        'FULL' => 1, 'GRANT' => 1, 'GROUP' => 1, 'HAVING' => 1, 'IN' => 1, 'INNER' => 1, 'INSERT' => 1, 'INTERSECT' => 1, 'INTO' => 1, 'IS' => 1, 'JOIN' => 1,
        'LATERAL' => 1, 'LEFT' => 1, 'LIKE' => 1, 'ILIKE' => 1, 'LIMIT' => 1, 'MINUS' => 1, 'NATURAL' => 1, 'NOT' => 1, 'NULL' => 1, 'OFFSET' => 1, 'ON' => 1, 'OR' => 1,
        'ORDER' => 1, 'OUTER' => 1, 'OVER' => 1, 'QUALIFY' => 1, 'REVOKE' => 1, 'RIGHT' => 1, 'STRAIGHT_JOIN' => 1, 'SELECT' => 1, 'SET' => 1, 'SOME' => 1, 'TABLE' => 1, 'THEN' => 1, 'TO' => 1,
        'TRUE' => 1, 'UNION' => 1, 'UPDATE' => 1, 'USING' => 1, 'VALUES' => 1, 'WHEN' => 1, 'WHERE' => 1, 'WINDOW' => 1, 'WITH' => 1,
    ];
}
