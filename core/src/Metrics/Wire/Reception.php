<?php

declare(strict_types=1);

namespace Fulcrion\Core\Metrics\Wire;

/**
 * What was understood of what was received, and what was not.
 */
final readonly class Reception
{
    /**
     * @param  list<Received>  $values
     * @param  list<string>  $complaints each with where it was
     * @param  int  $refused values that are not among them
     */
    public function __construct(public array $values, public array $complaints = [], public int $refused = 0)
    {
    }
}
