<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * DELETE.
 */
final readonly class Delete extends Statement
{
    /**
     * @param  list<string>  $table
     */
    public function __construct(int $at, public array $table, public ?string $alias, public ?Expression $where)
    {
        parent::__construct($at);
    }
}
