<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * SELECT ... FROM ... WHERE ... GROUP BY ... HAVING ....
 */
final readonly class Select extends QueryBody
{
    /**
     * @param  list<SelectItem>  $items
     * @param  list<Expression>  $groupBy
     * @param  array<string,Over>  $windows
     */
    public function __construct(
        int $at,
        public bool $distinct,
        public array $items,
        public ?Relation $from,
        public ?Expression $where,
        public array $groupBy,
        /** ROLLUP, CUBE or GROUPING SETS. */
        public ?string $grouping,
        public ?Expression $having,
        public ?Expression $qualify,
        public array $windows,
    ) {
        parent::__construct($at);
    }
}
