<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

use RuntimeException;

/**
 * A statement of which nobody can say what it reads. It is not run.
 */
final class Undecidable extends RuntimeException
{
    /**
     * @param  int|null  $offset in the statement, where there is one
     */
    public function __construct(string $message, public readonly ?int $offset = null)
    {
        parent::__construct($message);
    }
}
