<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use Fulcrion\Core\Telemetry\Execution;

/**
 * Single executions that ended since a reading before, and where the next reading goes on.
 */
final readonly class RecentReading
{
    /**
     * @param  list<array{string, Execution}>  $executions key of the DigestReading each belongs to, execution; in no order
     * @param  int  $cursor of the source's own making
     */
    public function __construct(public array $executions, public int $cursor)
    {
    }
}
