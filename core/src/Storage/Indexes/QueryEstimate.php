<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Indexes;

/**
 * What a query is expected to cost.
 */
final readonly class QueryEstimate
{
    /**
     * @param  float  $cost in rows read one after the other
     * @param  float  $rows looked at
     */
    public function __construct(public float $cost, public float $rows)
    {
    }

    public static function impossible(): self
    {
        return new self(INF, INF);
    }
}
