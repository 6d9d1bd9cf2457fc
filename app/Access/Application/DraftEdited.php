<?php

declare(strict_types=1);

namespace App\Access\Application;

use RuntimeException;

/**
 * Somebody else has changed the item since it was opened.
 */
final class DraftEdited extends RuntimeException
{
    /**
     * @param  array<string, mixed>|null  $theirs fields as they are now; null where it is removed
     */
    public function __construct(public readonly string $by, public readonly int $revision, public readonly ?array $theirs)
    {
        parent::__construct("{$by} has changed this meanwhile. Nothing was overwritten: look at both, then keep yours or theirs.");
    }
}
