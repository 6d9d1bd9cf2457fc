<?php

declare(strict_types=1);

namespace App\Usage\Application;

/**
 * One thing that is supposed to be otherwise on the days that are left.
 */
final readonly class IfPart
{
    /**
     * @param  string  $said in words, after "if"
     * @param  float  $factor of what those days have anyway
     * @param  float  $perDay that comes to each of them
     */
    public function __construct(public string $said, public float $factor = 1.0, public float $perDay = 0.0)
    {
    }
}
