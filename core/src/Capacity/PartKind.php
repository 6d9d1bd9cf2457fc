<?php

declare(strict_types=1);

namespace Fulcrion\Core\Capacity;

/**
 * What takes space.
 */
enum PartKind: string
{
    case Table = 'table';
    case Versions = 'versions';
    case Orphans = 'orphans';

    /** Kept elsewhere: they take none of what the cluster can store. */
    case Backups = 'backups';

    /** For people. */
    public function of(string $object): string
    {
        return match ($this) {
            self::Table => $object,
            self::Versions => "old versions of {$object}",
            self::Orphans => "files of {$object} nobody needs",
            self::Backups => "backups “{$object}”, kept elsewhere",
        };
    }
}
