<?php

declare(strict_types=1);

namespace Fulcrion\Core\Telemetry;

/**
 * Why a record was set aside: the field, what is wrong with it and what would be right.
 */
final readonly class Rejection
{
    public function __construct(public string $field, public string $reason)
    {
    }
}
