<?php

declare(strict_types=1);

namespace App\Telemetry\Collect;

use App\Estate\Connectors\DigestReading;

/**
 * What a row of a server grew by since it was read last.
 */
final readonly class Grown
{
    /**
     * @param  array<string, int>  $delta its counters, `count` of them above nought
     * @param  bool  $isNew whether the row itself came into being since
     */
    public function __construct(public DigestReading $reading, public array $delta, public bool $isNew)
    {
    }
}
