<?php

declare(strict_types=1);

namespace App\Telemetry\Usage;

/**
 * The values of a field that used most.
 */
final readonly class ForemostValues
{
    /**
     * @param  list<int>  $numbers the facts know them by
     * @param  array<string, int>  $amounts by value
     * @param  int  $all how many values there are
     */
    public function __construct(public UsageField $field, public array $numbers, public array $amounts, public int $all)
    {
    }
}
