<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

/**
 * Statements that are prepared at one moment, and all executions of such since the server began.
 */
final readonly class PreparedReading
{
    /**
     * @param  list<DigestReading>  $open those that are still open, each since it was prepared
     * @param  array<string, int>  $total of those that are closed too, in the same counters
     */
    public function __construct(public array $open, public array $total)
    {
    }
}
