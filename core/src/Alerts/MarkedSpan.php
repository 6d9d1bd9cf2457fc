<?php

declare(strict_types=1);

namespace Fulcrion\Core\Alerts;

/**
 * A time somebody said something was wrong in.
 */
final readonly class MarkedSpan
{
    /**
     * @param  int  $from first second
     * @param  int  $to first second after it
     */
    public function __construct(public int $from, public int $to, public string $name)
    {
    }
}
