<?php

declare(strict_types=1);

namespace App\Metrics\Intake;

/**
 * What became of values that were sent.
 */
final readonly class IntakeResult
{
    /**
     * @param  int  $taken values
     * @param  int  $repeated values that were known already
     * @param  int  $refused values that could not be taken
     * @param  list<string>  $complaints why
     */
    public function __construct(public int $taken, public int $repeated, public int $refused, public array $complaints)
    {
    }

    public function words(): string
    {
        return implode('; ', $this->complaints);
    }
}
