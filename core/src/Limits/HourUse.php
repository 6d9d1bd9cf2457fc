<?php

declare(strict_types=1);

namespace Fulcrion\Core\Limits;

/**
 * What somebody used in an hour.
 */
final readonly class HourUse
{
    /**
     * @param  int  $at its start, in Unix seconds
     * @param  int  $day date it belongs to
     * @param  string  $who whom it is told of: a person, or a statement
     * @param  int  $amount in the units of the measure
     */
    public function __construct(public int $at, public int $day, public string $who, public int $executions, public int $amount)
    {
    }
}
