<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * A whole query.
 */
final readonly class Query extends Statement
{
    /**
     * @param  list<CommonTable>  $with
     * @param  list<SortKey>  $orderBy
     */
    public function __construct(
        int $at,
        public array $with,
        public bool $recursive,
        public QueryBody $body,
        public array $orderBy,
        public ?Expression $limit,
        public ?Expression $offset,
    ) {
        parent::__construct($at);
    }
}
