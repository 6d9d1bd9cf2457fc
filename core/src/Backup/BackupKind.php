<?php

declare(strict_types=1);

namespace Fulcrion\Core\Backup;

/**
 * What a backup holds: all, or what became otherwise since the one before.
 */
enum BackupKind: string
{
    case Full = 'full';
    case Incremental = 'incremental';
}
