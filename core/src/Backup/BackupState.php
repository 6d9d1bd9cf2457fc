<?php

declare(strict_types=1);

namespace Fulcrion\Core\Backup;

/**
 * What could be got back from a backup, the best first.
 */
enum BackupState: string
{
    case Checked = 'checked';
    case Unchecked = 'not checked';
    case Damaged = 'damaged';
    case Baseless = 'builds on nothing';
    case Removed = 'removed';
    case Failed = 'failed';

    /** Whether it counts as one to restore from. */
    public function isGood(): bool
    {
        return $this === self::Checked || $this === self::Unchecked;
    }

    /** For people, after "the backup". */
    public function said(): string
    {
        return match ($this) {
            self::Checked => 'agrees with its checksums',
            self::Unchecked => 'was not checked',
            self::Damaged => 'is damaged',
            self::Baseless => 'builds on one that is missing or damaged',
            self::Removed => 'was removed',
            self::Failed => 'failed',
        };
    }

    public function rank(): int
    {
        return (int) array_search($this, self::cases(), true);
    }
}
