<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

/**
 * What can be changed about how a table is stored.
 */
enum TableChangeKind: string
{
    case Rebuild = 'rebuild';
    case Maintain = 'maintain';
    case Statistics = 'statistics';
    case Rewrite = 'rewrite';

    /** Rollups or lookups that come or go. */
    case Rollups = 'rollups';
}
