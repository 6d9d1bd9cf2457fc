<?php

declare(strict_types=1);

namespace App\Telemetry\Collect;

use App\Telemetry\Store\Origin;
use Fulcrion\Core\Statements\LoadAggregate;

/**
 * What came from one place.
 */
final readonly class Part
{
    public function __construct(public Origin $origin, public LoadAggregate $tally)
    {
    }
}
