<?php

declare(strict_types=1);

namespace Fulcrion\Core\Catalog;

/**
 * Names of objects that changes keep, build and rehearse with. They belong to the system: nobody else sees or makes any. Whoever
 * makes such an object takes its name from here, so that it is known for one.
 */
final readonly class HelperName
{
    private const TABLE = '~(?:__(?:kept|new|back|undone)_\d+| being replaced| replaced)$~';

    private const SCHEMA = '~^(?:rehearsal|tuning|trial)_\d+$~';

    /**
     * @param  'kept'|'new'|'back'|'undone'  $what the table is beside the one it belongs to
     * @param  int  $number of the change
     */
    public static function table(string $table, string $what, int $number): string
    {
        return "{$table}__{$what}_{$number}";
    }

    /**
     * @param  'rehearsal'|'tuning'|'trial'  $what it is for
     * @param  int  $number of the change or run
     */
    public static function schema(string $what, int $number): string
    {
        return "{$what}_{$number}";
    }

    public static function is(string $schema, string $table = ''): bool
    {
        return preg_match(self::SCHEMA, strtolower($schema)) === 1 || preg_match(self::TABLE, strtolower($table)) === 1;
    }
}
