<?php

declare(strict_types=1);

namespace App\Health\Application;

/**
 * How a node was at a moment.
 */
final readonly class NodeMark
{
    /**
     * @param  float|null  $processor part of its processors at work; null where nothing is known
     * @param  float|null  $disk disks at work, on the mean
     */
    public function __construct(public string $name, public ?float $processor, public ?float $disk, public bool $isOdd)
    {
    }
}
