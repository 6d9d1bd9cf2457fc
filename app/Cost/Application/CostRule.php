<?php

declare(strict_types=1);

namespace App\Cost\Application;

use Fulcrion\Core\Cost\IdleRule;
use Fulcrion\Core\Usage\UsageMeasure;

/**
 * How the cost of a cluster is given to those that use it, as its owner chose.
 */
final readonly class CostRule
{
    /** What the fixed cost may follow. */
    public const FOLLOWS = [UsageMeasure::InFlight, UsageMeasure::Cpu, UsageMeasure::Scanned];

    public function __construct(public string $currency, public UsageMeasure $follows, public IdleRule $idle)
    {
    }
}
