<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * Two relations joined.
 */
final readonly class Join extends Relation
{
    /**
     * @param  list<string>  $using
     */
    public function __construct(
        int $at,
        public JoinKind $kind,
        public Relation $left,
        public Relation $right,
        public ?Expression $on,
        public array $using,
        public bool $natural,
    ) {
        parent::__construct($at);
    }
}
