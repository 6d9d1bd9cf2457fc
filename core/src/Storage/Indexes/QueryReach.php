<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Indexes;

/**
 * How one query of a statement reaches into its tables.
 */
final readonly class QueryReach
{
    /**
     * @param  non-empty-list<IndexReach>  $members the tables that are known, in the order they are written
     * @param  int|null  $limit rows it wants at most; null for all, or where it is not written
     */
    public function __construct(public array $members, public ?int $limit = null)
    {
    }
}
