<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

use RuntimeException;

/**
 * A field of a record that cannot be what it says; the message goes on after the name of the field.
 */
final class WrongField extends RuntimeException
{
    public function __construct(public readonly string $field, string $what, public readonly string $remedy)
    {
        parent::__construct($what);
    }
}
