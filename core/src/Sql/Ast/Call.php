<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * A function, aggregate or window function.
 */
final readonly class Call extends Expression
{
    /**
     * @param  list<Expression>  $arguments
     * @param  list<SortKey>  $orderBy
     */
    public function __construct(
        int $at,
        /** In small letters. */
        public string $name,
        public array $arguments,
        public bool $distinct = false,
        public ?Expression $filter = null,
        public ?Over $over = null,
        public array $orderBy = [],
    ) {
        parent::__construct($at);
    }
}
