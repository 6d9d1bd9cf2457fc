<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * The window of a window function.
 */
final readonly class Over extends Node
{
    /**
     * @param  list<Expression>  $partitionBy
     * @param  list<SortKey>  $orderBy
     */
    public function __construct(
        int $at,
        public array $partitionBy,
        public array $orderBy,
        /** As written, white space made single. */
        public ?string $frame,
        /** Of a window defined in the WINDOW clause. */
        public ?string $name,
    ) {
        parent::__construct($at);
    }
}
