<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * UPDATE.
 */
final readonly class Update extends Statement
{
    /**
     * @param  list<string>  $table
     * @param  list<array{string,Expression}>  $assignments
     */
    public function __construct(int $at, public array $table, public ?string $alias, public array $assignments, public ?Expression $where)
    {
        parent::__construct($at);
    }
}
