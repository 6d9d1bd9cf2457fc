<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * MAINTAIN TABLE t WITH (action = ...): maintenance of how a table lies, which changes none of its rows.
 */
final readonly class Maintain extends Statement
{
    /**
     * @param  list<string>  $table
     * @param  list<TableOption>  $options
     */
    public function __construct(int $at, public array $table, public array $options)
    {
        parent::__construct($at);
    }
}
