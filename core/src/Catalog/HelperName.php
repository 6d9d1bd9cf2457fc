<?php

declare(strict_types=1);

namespace Fulcrion\Core\Catalog;

/**
 * Names of objects that changes keep, build and rehearse with. They belong to the system: nobody else sees or makes any.
 */
final readonly class HelperName
{
    private const TABLE = '~(?:__(?:kept|new|back|undone)_\d+| being replaced| replaced)$~';

    private const SCHEMA = '~^(?:rehearsal|tuning|trial)_\d+$~';

    public static function is(string $schema, string $table = ''): bool
    {
        return preg_match(self::SCHEMA, strtolower($schema)) === 1 || preg_match(self::TABLE, strtolower($table)) === 1;
    }
}
