<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

/**
 * What a statement does, told by its leading keyword.
 */
enum StatementKind: string
{
    case Read = 'read';
    case Insert = 'insert';
    case Update = 'update';
    case Delete = 'delete';
    case Load = 'load';
    case Definition = 'definition';
    case Access = 'access';
    case Maintenance = 'maintenance';
    case Session = 'session';
    case Other = 'other';

    public static function ofNormalised(string $text): self
    {
        $text = ltrim($text, '( ');
        $first = substr($text, 0, strcspn($text, " (\n"));
        if ($first === 'WITH') {
            // The main clause stands after the closing bracket of the last common table expression.
            return preg_match('~\)\s*(INSERT|UPDATE|DELETE|MERGE)\b~', $text, $match) === 1 ? self::ofNormalised($match[1]) : self::Read;
        }

        return match ($first) {
            'SELECT', 'VALUES', 'TABLE', 'EXPLAIN', 'SHOW', 'DESCRIBE' => self::Read,
            'INSERT', 'REPLACE', 'MERGE' => self::Insert,
            'UPDATE' => self::Update,
            'DELETE', 'TRUNCATE' => self::Delete,
            'LOAD', 'COPY' => self::Load,
            'CREATE', 'ALTER', 'DROP', 'RENAME', 'COMMENT' => self::Definition,
            'GRANT', 'REVOKE' => self::Access,
            'ANALYZE', 'OPTIMIZE', 'VACUUM', 'REFRESH' => self::Maintenance,
            'SET', 'USE', 'BEGIN', 'START', 'COMMIT', 'ROLLBACK', 'SAVEPOINT' => self::Session,
            default => self::Other,
        };
    }
}
