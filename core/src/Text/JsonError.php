<?php

declare(strict_types=1);

namespace Fulcrion\Core\Text;

use RuntimeException;

/**
 * A text that is no JSON, with the line where that shows.
 */
final class JsonError extends RuntimeException
{
    public function __construct(string $message, public readonly int $textLine)
    {
        parent::__construct($message);
    }
}
