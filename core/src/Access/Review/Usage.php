<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Review;

/**
 * That somebody has read a table, and when last.
 */
final readonly class Usage
{
    public function __construct(public string $subject, public string $table, public int $executions, public string $lastDay)
    {
    }
}
